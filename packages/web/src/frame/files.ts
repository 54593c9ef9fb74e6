import { useCallback } from 'react';
import { useNavigate, useParams } from 'react-router';
import { messageOfError, useAddSourcesMutation, useCreateMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { jobsKnown, noticeGiven } from '../state/ui';

/** Takes files in: into the crossing that is open, or into a new one. */
export function useTakeFiles(): (files: File[]) => Promise<void> {
  const { id } = useParams();
  const [create] = useCreateMutation();
  const [add] = useAddSourcesMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  return useCallback(async (files) => {
    if (files.length === 0) return;
    try {
      if (id) {
        dispatch(jobsKnown(await add({ id, files }).unwrap()));
        void navigate(`/crossings/${id}/gather`);
      } else {
        const created = await create(files).unwrap();
        dispatch(jobsKnown(created.jobs));
        void navigate(`/crossings/${created.id}/gather`);
      }
    } catch (error) {
      dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) }));
    }
  }, [id, add, create, navigate, dispatch]);
}

/** Opens the system's own way of choosing files. */
export function chooseFiles(take: (files: File[]) => void): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.multiple = true;
  input.style.display = 'none';
  input.setAttribute('aria-label', 'Files');
  input.onchange = () => {
    take([...(input.files ?? [])]);
    input.remove();
  };
  input.oncancel = () => input.remove();
  document.body.append(input);
  input.click();
}
