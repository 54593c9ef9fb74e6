import { goToFieldInError } from '../app/field-in-error';
import { useCrossing } from '../crossing/use-crossing';
import { plural } from '../components/numbers';
import { messageOfError, useRunMutation } from '../state/api';
import { allSaved } from '../state/recipe';
import { useAppDispatch } from '../state/store';
import { batchIs, jobsKnown, noticeGiven } from '../state/ui';

/** Starts the runs of deliverables, in their order; those that cannot be started are told. */
export function useRun(): (deliverables: readonly string[]) => Promise<void> {
  const crossing = useCrossing();
  const dispatch = useAppDispatch();
  const [start] = useRunMutation();
  return async (deliverables) => {
    const wrong = goToFieldInError();
    if (wrong !== null) {
      dispatch(noticeGiven({ tone: 'wrong', message: `${wrong}: what stands there cannot be taken. Mend it, and run then.` }));
      return;
    }
    // what runs is what the page shows, even when it was changed a moment ago
    await allSaved(crossing.id);
    const started: string[] = [],
      refused: string[] = [];
    for (const deliverable of deliverables) {
      try {
        const job = await start({ id: crossing.id, deliverable }).unwrap();
        dispatch(jobsKnown([job]));
        started.push(job.id);
      } catch (error) {
        refused.push(messageOfError(error));
      }
    }
    if (deliverables.length > 1) dispatch(batchIs({ crossing: crossing.id, jobs: started }));
    if (refused.length > 0)
      dispatch(
        noticeGiven({
          tone: 'wrong',
          message: refused.length === 1 ? refused[0]! : `${plural(refused.length, 'deliverable')} could not be started. ${refused[0]!}`,
        }),
      );
  };
}
