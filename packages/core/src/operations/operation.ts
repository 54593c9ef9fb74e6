import type { ZodType } from 'zod';
import type { FeatureBatch } from '../model/batch';
import type { Cause, Reason } from '../model/reason';
import type { SymbolLibrary } from '../symbology/library';
import type { JoinTable } from './join-table';

/** The records of a source from the beginning, as often as they are asked for, always in the same order. */
export type ReadBatches = () => AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>;

/** What the operations on a source work with besides its records and rules. */
export interface OperationContext {
  library: SymbolLibrary | null;
  /** Metres in one unit of the source's own coordinates. */
  unit_m: number;
  /** The tables that its layers are joined with, by layer. */
  tables?: ReadonlyMap<string, JoinTable>;
  /** Tells which records of a batch lie in the area of interest; absent where all are wanted. */
  inArea?: (batch: FeatureBatch) => (i: number) => boolean;
  /** Carries records into the frame, for filters that ask where they lie; null where their source has no place. */
  inFrame?: ((batch: FeatureBatch) => FeatureBatch) | null;
  /** Is told of every record that an operation leaves behind. */
  left?: (batch: FeatureBatch, i: number, reason: Reason) => void;
}

/** Which texts of a source go to which objects; records are known by their number within their layer. */
export interface Transfers {
  /** Fields given to the objects of a layer. */
  fieldsOf(layer: string): ReadonlyMap<number, ReadonlyMap<string, string>>;
  /** The texts of a layer that found an object. */
  matched(layer: string): ReadonlySet<number>;
  /** All texts of a layer that are transferred, with where they stand in the source's own numbers. */
  texts(layer: string): readonly { text: string; x: number; y: number; matched: boolean }[];
}

/** The context of one layer's stages, with what was found out beforehand. */
export interface StageContext extends OperationContext {
  layer: string;
  transfers: Transfers | null;
}

/** What an operation does to the batches of one layer, which come in the order of reading. */
export interface Stage {
  apply(batch: FeatureBatch): Iterable<FeatureBatch>;
  /** Called once, when all batches of all layers have come. */
  end?(): void;
}

/** One thing that a forecast says of some records. */
export interface Effect {
  /** `told`: nothing is lost by it, but a person should know. */
  effect: 'changed' | 'left' | 'told';
  code: string;
  count: number;
  message: string;
  /** Who caused that they stay behind; only where the effect is `left`. */
  by?: Cause;
  /** True where values are lost by it. */
  loses?: true;
  /** True where the records it is about are no more among those that go on. */
  gone?: true;
}

/**
 * Something that a rule does to records. The page, the recipe, the forecast and the command line read the list of them; none knows
 * an operation by itself.
 *
 * @typeParam P its parameters, as a recipe states them
 * @typeParam T what it counts while it works; plain data, since it is stored and sent
 * @typeParam R what of the rule of a layer it reads
 */
export interface Operation<P = unknown, T extends object = object, R = object> {
  readonly id: string;
  /** Whether it looks at one record at a time, at a whole layer, or at several sources. */
  readonly scope: 'record' | 'layer' | 'crossing';
  readonly schema: ZodType<P>;
  /** Its parameters for a layer; undefined where it leaves the layer as it is. */
  parameters(layer: string, rules: Readonly<Record<string, R>>, context: Pick<OperationContext, 'inArea'>): P | undefined;
  /** What it does, as a person would say it. */
  sentence(parameters: P): string;
  tally(): T;
  stage(parameters: P, context: StageContext, tally: T): Stage;
  /** What is said of a layer after its records went through. */
  effects(tally: T): Effect[];
}

/** One of something, or several: "1 text", "3 texts". */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
