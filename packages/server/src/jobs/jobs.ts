import type { Job } from '@pontrel/contract/job';
import { Cancelled, messageOf } from '@pontrel/core/model/problem';
import type { Catalog } from '../store/catalog';
import { faultOf, sentenceOf } from '../store/faults';
import { newId } from '../store/id';
import type { JobTask } from '../work/job';
import type { Progress } from '../work/watch';
import type { JobProcesses } from './job-processes';
import type { Events } from './events';

export interface JobPlan<T> {
  crossing: string;
  kind: Job['kind'];
  subject: string;
  subjectId: string;
  unit: Job['unit'];
  total: number;
  /** What its process does, and with what. */
  task: JobTask;
  input: Record<string, unknown>;
  /** Puts things in order before the work starts. */
  prepare?(): Promise<void>;
  /** Makes the result part of the crossing; returns the id of what was made. Runs in the server, in one go. */
  finish(result: T): Promise<string>;
  /** Clears away what a job that did not finish has left. */
  discard(): Promise<void>;
}

/** After how long the catalog is tried again. */
const AGAIN_MS = 1000;

/** Starts jobs in processes, keeps the catalog and the listeners informed, and stops jobs. */
export class Jobs {
  private readonly running = new Map<string, { crossing: string; stop: AbortController; ended: Promise<void> }>();
  /** States that the catalog could not take, as on a full disk; the last of each job. */
  private readonly unsaved = new Map<string, Job>();
  private again: NodeJS.Timeout | null = null;
  private closing = false;

  constructor(
    private readonly catalog: Catalog,
    private readonly processes: JobProcesses,
    private readonly events: Events,
  ) {}

  start<T>(plan: JobPlan<T>): Job {
    const job: Job = {
      id: newId(),
      crossing: plan.crossing,
      kind: plan.kind,
      subject: plan.subject,
      subjectId: plan.subjectId,
      status: 'waiting',
      phase: 'Waiting',
      done: 0,
      total: plan.total,
      unit: plan.unit,
      message: null,
      started: new Date().toISOString(),
      ended: null,
      result: null,
    };
    this.put(job);
    const stop = new AbortController();
    this.running.set(job.id, { crossing: job.crossing, stop, ended: this.follow(job, plan, stop.signal) });
    return job;
  }

  /** Stops a job, whatever it is at. */
  cancel(id: string): void {
    this.running.get(id)?.stop.abort();
  }

  /** Stops every job of a crossing that is to be deleted, and waits until none has a hand in its folder. */
  async cancelAll(crossing: string): Promise<void> {
    const own = [...this.running.values()].filter((r) => r.crossing === crossing);
    for (const { stop } of own) stop.abort();
    await Promise.all(own.map((r) => r.ended));
  }

  /** Stops everything, because the server ends; the next start tells what was interrupted. */
  async close(): Promise<void> {
    this.closing = true;
    for (const id of this.running.keys()) this.cancel(id);
    await Promise.all([...this.running.values()].map((r) => r.ended));
  }

  private async follow<T>(job: Job, plan: JobPlan<T>, signal: AbortSignal): Promise<void> {
    let live: Job = job;
    const onProgress = ({ phase, done, total }: Progress): void => {
      // the catalog keeps the state, not every step of the way
      const first = live.status === 'waiting';
      live = { ...live, status: 'running', phase, done, total };
      if (first) this.put(live);
      else this.events.emit({ type: 'job', job: live });
    };
    const end = (status: Job['status'], message: string | null, result: string | null): void => {
      this.running.delete(job.id);
      this.put({ ...live, status, message, result, ended: new Date().toISOString() });
      this.events.emit({ type: 'crossing', id: job.crossing });
    };
    try {
      await plan.prepare?.();
      const outcome = await this.processes.run<T>(plan.task, plan.input, onProgress, signal);
      if ('ok' in outcome) {
        end('done', null, await plan.finish(outcome.ok));
        return;
      }
      await plan.discard();
      end('failed', outcome.problem.message, null);
    } catch (error) {
      await plan.discard().catch(console.error);
      // what goes wrong because of the stop is none of its own
      if (!(error instanceof Cancelled || signal.aborted)) end('failed', sentenceOf(error), null);
      // the next start tells of those that the end of the server cut off
      else if (!this.closing) end('cancelled', 'Stopped. Nothing of it was kept.', null);
    }
  }

  /** Tells a job's state; the catalog gets it as soon as it can take it. */
  private put(job: Job): void {
    if (this.keep(job)) this.events.emit({ type: 'job', job });
  }

  /** @returns whether the crossing is still there: it may be deleted while the job runs */
  private keep(job: Job): boolean {
    this.unsaved.delete(job.id);
    try {
      this.catalog.saveJob(job);
    } catch (error) {
      if (messageOf(error).includes('FOREIGN KEY')) return false;
      if (faultOf(error) === null) console.error(error);
      this.unsaved.set(job.id, job);
      if (!this.closing) this.again ??= setTimeout(() => this.keepUnsaved(), AGAIN_MS).unref();
    }
    return true;
  }

  private keepUnsaved(): void {
    this.again = null;
    for (const job of [...this.unsaved.values()]) {
      this.keep(job);
      // the others would wait for the same
      if (this.unsaved.has(job.id)) return;
    }
  }
}
