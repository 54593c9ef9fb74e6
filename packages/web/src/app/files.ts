import { useCallback } from 'react';
import { useNavigate, useParams } from 'react-router';
import { isKnownName } from '@pontrel/core/formats/every-format';
import { messageOfError, useAddSourcesMutation, useCreateMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { intakeLogged, jobsKnown, noticeGiven } from '../state/ui';

/** Takes files in: into the crossing that is open, or into a new one; images as one mosaic where they are to be together. */
export function useTakeFiles(): (files: File[], together?: boolean) => Promise<void> {
  const { id } = useParams();
  const [create] = useCreateMutation();
  const [add] = useAddSourcesMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  return useCallback(
    async (files, together = false) => {
      if (files.length === 0) return;
      try {
        if (id) {
          const added = await add({ id, files, together }).unwrap();
          dispatch(jobsKnown(added.jobs));
          dispatch(intakeLogged(added.log));
          void navigate(`/crossings/${id}/gather`);
        } else {
          const created = await create({ files, together }).unwrap();
          dispatch(jobsKnown(created.jobs));
          dispatch(intakeLogged(created.log));
          void navigate(`/crossings/${created.id}/gather`);
        }
      } catch (error) {
        dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) }));
      }
    },
    [id, add, create, navigate, dispatch],
  );
}

/** What a drop zone asks an event for. */
export const filesOf = (event: unknown): Promise<File[]> => {
  const { dataTransfer } = event as { dataTransfer?: DataTransfer };
  return dataTransfer ? droppedFiles(dataTransfer.items) : Promise.resolve([]);
};

/** The files that were dropped, those in folders as well; of a folder only what may be read here. */
async function droppedFiles(items: DataTransferItemList): Promise<File[]> {
  // both have to be asked for at once: they are gone when this comes back
  const entries = [...items].flatMap((item): (File | FileSystemEntry)[] => {
    const entry = item.kind === 'file' ? item.webkitGetAsEntry() : null;
    const file = item.kind === 'file' ? item.getAsFile() : null;
    return entry?.isDirectory ? [entry] : file ? [file] : [];
  });
  return (await Promise.all(entries.map((e) => (e instanceof File ? [e] : filesWithin(e))))).flat();
}

async function filesWithin(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    if (!isKnownName(entry.name)) return [];
    return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: FileSystemEntry[] = [];
  // a folder hands out its entries some at a time
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (some.length === 0) break;
    found.push(...some);
  }
  return (await Promise.all(found.map(filesWithin))).flat();
}

/** Opens the system's own way of choosing files. */
export const chooseFiles = (take: (files: File[]) => void): void => choose('Files', take);

/** Opens the system's own way of choosing a folder, and gives all files in it. */
export const chooseFolder = (take: (files: File[]) => void): void => choose('Folder', take, (input) => (input.webkitdirectory = true));

function choose(label: string, take: (files: File[]) => void, set?: (input: HTMLInputElement) => void): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.multiple = true;
  input.style.display = 'none';
  input.setAttribute('aria-label', label);
  set?.(input);
  input.onchange = () => {
    take([...(input.files ?? [])]);
    input.remove();
  };
  input.oncancel = () => input.remove();
  document.body.append(input);
  input.click();
}
