import { LiveEvent } from '@pontrel/contract/job';
import { api } from './api';
import { allSaved, isSaving } from './recipe';
import type { AppDispatch } from './store';
import { connectionChanged, jobMoved } from './ui';

const tagsOf = (id: string) => [
  { type: 'Crossing' as const, id },
  { type: 'Rules' as const, id },
];

/** Follows the server's event stream; the browser reconnects by itself. Returns what ends it. */
export function follow(dispatch: AppDispatch): () => void {
  const stream = new EventSource('/api/events');
  let broken = false;
  stream.onopen = () => {
    dispatch(connectionChanged(true));
    // what happened meanwhile is asked for
    if (broken) dispatch(api.util.invalidateTags(['Crossings', 'Crossing', 'Rules']));
    broken = false;
  };
  stream.onerror = () => {
    broken = true;
    dispatch(connectionChanged(false));
  };
  stream.onmessage = ({ data }: MessageEvent<string>) => {
    const event = LiveEvent.parse(JSON.parse(data));
    if (event.type === 'job') dispatch(jobMoved(event.job));
    else if (isSaving(event.id)) {
      // what this page saves itself comes back by itself; anything else is asked for once that is done
      dispatch(api.util.invalidateTags(['Crossings']));
      if (!event.saved) void allSaved(event.id).then(() => dispatch(api.util.invalidateTags(tagsOf(event.id))));
    } else dispatch(api.util.invalidateTags(['Crossings', ...tagsOf(event.id)]));
  };
  return () => stream.close();
}
