import type { Crs } from '../../crs/crs';
import type { FormatOption, OptionValues } from '../../formats/format-option';
import type { FeatureBatch, Kind } from '../../model/batch';
import type { Finding } from '../../model/finding';
import type { Tin } from '../surfaces/tin';
import type { Fault } from './fault';

/** What an operation wants records for. */
export interface Role {
  /** Its name on the command line. */
  id: string;
  title: string;
  /** Kinds that make a layer one for it, where nobody says which layers are meant. */
  kinds: readonly Kind[];
  /** Whether the operation can do without. */
  optional?: true;
  /** Whether an elevation model, an image of one band, will do as well. */
  elevation?: true;
}

/** What an operation works on. */
export interface DerivationInput {
  /** Records of the layers that have a role, as often as they are asked for: in one plane, curves in chords. */
  records(role: string): AsyncIterable<FeatureBatch>;
  /** Whether some layer has that role. */
  has(role: string): boolean;
  /** Every setting; lengths are metres. */
  settings: OptionValues;
  /** Name of the layer that comes of it; of several, what their names begin with. */
  name: string;
  /** Metres in one unit of the coordinates. */
  unit_m: number;
  /** The plane that they are in. */
  crs: Crs;
}

/** What came of an operation. */
export interface Derived {
  /** The same ones as often as they are asked for. */
  records(): Iterable<FeatureBatch>;
  /** The ground that came of it, where it is one: what an elevation model is made of. */
  surface?: Tin;
  /** By name: counts, lengths in metres, areas in square metres, volumes in cubic metres. */
  figures: Readonly<Record<string, number>>;
  /** The worst of each kind first. */
  faults: Fault[];
  /** What there is to know beside the faults. */
  findings: Finding[];
}

/** An operation that works records out of whole layers, which make a layer of their own. */
export interface Derivation {
  id: string;
  /** What comes of it, for people. */
  title: string;
  /** What it does, in a sentence. */
  says: string;
  /** Whether what comes of it lies in a plane of its own, in metres, and not where its layers lie. */
  ownPlane?: true;
  /** Whether heights of its layers are compared with each other, so that they have to be of one system. */
  heights?: true;
  roles: readonly Role[];
  settings: readonly FormatOption[];
  /** @throws Problem where nothing can come of the records */
  run(input: DerivationInput): Promise<Derived>;
}

/** A length that is set. @throws where the operation has no such setting */
export function lengthOf(settings: OptionValues, id: string, unit_m: number): number {
  const value = settings[id];
  if (typeof value !== 'number') throw new Error(`no length is set as ${id}`);
  return value / unit_m;
}
