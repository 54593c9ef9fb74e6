import type { CrsAnswer, CrsQuestion } from './crs-worker';

let worker: Worker | null = null;
let next = 1;
const waiting = new Map<number, (answer: CrsAnswer) => void>();

/** Puts a question to the worker, which has the core's own transforms. */
export function askCrs<Q extends CrsQuestion>(
  question: Q,
): Promise<
  Q extends { ask: 'degrees' }
    ? Extract<CrsAnswer, { points: number[] }>
    : Q extends { ask: 'area' }
      ? Extract<CrsAnswer, { area_m2: number }>
      : Extract<CrsAnswer, { total_m: number }>
> {
  if (!worker) {
    worker = new Worker(new URL('./crs-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<{ id: number; answer: CrsAnswer }>) => {
      waiting.get(data.id)?.(data.answer);
      waiting.delete(data.id);
    };
  }
  const id = next++;
  worker.postMessage({ id, question });
  return new Promise((resolve) => waiting.set(id, resolve as (a: CrsAnswer) => void));
}
