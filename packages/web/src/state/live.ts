import { LiveEvent } from '@pontrel/contract/job';
import { api } from './api';
import { isSaving } from './recipe';
import type { AppDispatch } from './store';
import { connectionChanged, jobMoved } from './ui';

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
    else {
      dispatch(api.util.invalidateTags(isSaving(event.id) ? ['Crossings'] : ['Crossings', { type: 'Crossing', id: event.id }, { type: 'Rules', id: event.id }]));
    }
  };
  return () => stream.close();
}
