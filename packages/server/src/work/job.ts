import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { registerSkia } from '@pontrel/host-node/canvas';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { type GridFolder, registerGrids } from '@pontrel/host-node/grid-folders';
import { type Outcome, told } from '@pontrel/host-node/outcome';
import { sentenceOf } from '../store/faults';
import type { ImageFiles } from './image-files';
import { readImages } from './read-images';
import { readSource, type StoredFiles } from './read-source';
import { runRecords, type RunRequest } from './run-records';
import { runPictures } from './run-pictures';
import type { Progress } from './watch';
import { type WorkOrder, workOutStored } from './work-out-stored';

/** What a job is, as its process is told of it. */
export interface Order {
  task: JobTask;
  input: Record<string, unknown>;
  grids: GridFolder[];
}

/** What the process of a job says. */
export type Said = { progress: Progress } | { outcome: Outcome<unknown> };

const TASKS = {
  read: (input: Record<string, unknown>, report: (p: Progress) => void) => readSource(input.files as StoredFiles, report),
  images: (input: Record<string, unknown>, report: (p: Progress) => void) => readImages(input.files as ImageFiles, report),
  workOut: (input: Record<string, unknown>, report: (p: Progress) => void) => workOutStored(input.order as WorkOrder, report),
  run: (input: Record<string, unknown>, report: (p: Progress) => void) => runRecords(input.request as RunRequest, report),
  pictures: (input: Record<string, unknown>, report: (p: Progress) => void) => runPictures(input.request as RunRequest, report),
};
export type JobTask = keyof typeof TASKS;

/** Without its server nobody is there to take what it makes. */
const leave = (): never => process.exit(0);

const say = (said: Said): void =>
  void process.send!(said, undefined, undefined, (error) => {
    if (error) leave();
  });

registerNodeCodePages();
registerNodeImageEngine();
registerSkia();
process.on('message', ({ task, input, grids }: Order) => {
  registerGrids(grids);
  told<unknown>(() => TASKS[task](input, (progress) => say({ progress })))
    .catch((error: unknown): Outcome<unknown> => ({ problem: { code: 'failed', message: sentenceOf(error) } }))
    .then((outcome) => say({ outcome }))
    // the next job would find whatever this one left
    .catch(() => process.exit(1));
});
process.on('disconnect', leave);
