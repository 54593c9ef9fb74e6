import { Problem } from '@pontrel/core/model/problem';
import type { Piscina } from 'piscina';
import { type Outcome, unwrapped } from '@pontrel/host-node/outcome';
import type * as tasks from './worker';

/** How long somebody waits for an answer at most. */
const MOST_MS = 90_000;

type Tasks = typeof tasks;
type Answer<N extends keyof Tasks> = Awaited<ReturnType<Tasks[N]>>;

/** Short work for somebody who waits for the answer: tiles, lists, counts. It is done in threads that can be ended. */
export class LookUps {
  private closing = false;

  constructor(private readonly pool: Piscina) {}

  /** Ends the threads; what is still asked for gets no answer. */
  async close(): Promise<void> {
    this.closing = true;
    await this.pool.destroy();
  }

  /** @throws Problem that the work told, or `took-too-long` */
  async ask<N extends keyof Tasks>(name: N, request: Parameters<Tasks[N]>[0]): Promise<Told<Answer<N>>> {
    const signal = AbortSignal.timeout(MOST_MS);
    try {
      return unwrapped((await this.pool.run(request, { name, signal })) as Outcome<Told<Answer<N>>>);
    } catch (error) {
      if (this.closing) throw new Problem('stopping', 'Pontrel is being stopped.');
      if (!signal.aborted) throw error;
      throw new Problem(
        'took-too-long',
        `The answer took longer than ${MOST_MS / 1000} seconds, and is not waited for. Ask for less, such as fewer layers or a plainer rule.`,
      );
    }
  }
}

type Told<O> = O extends { ok: infer T } ? T : never;
