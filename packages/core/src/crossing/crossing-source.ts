import type { NoImage } from '../content/features/forecast';
import type { LayerProfile } from '../content/features/profile';
import type { LinearUnit } from '../crs/crs';
import type { OpenSource } from '../formats/format';
import type { ByteSource } from '../io/bytes';
import type { Finding } from '../model/finding';
import type { LayerReport } from '../operations/apply';
import type { ReadBatches } from '../operations/operation';
import type { LayerStyle } from '../symbology/layer-style';
import type { LinePattern, SymbolLibrary } from '../symbology/library';
import type { Extended } from './placement-of';

/** What is known of a source once it was read: enough for a plan and a forecast. */
export interface SourceSummary extends Extended {
  /** The unit that it states. */
  unit: LinearUnit | null;
  layers: readonly LayerProfile[];
  findings: readonly Finding[];
  /** What the operations counted on its layers, where they change records. */
  reports?: Readonly<Record<string, LayerReport>>;
  /** Records without an image in the target, by layer, where some may have none. */
  noImage?: NoImage;
  /** Patterns of its lines, by name in small letters, in its own unit. */
  patterns?: Readonly<Record<string, LinePattern>>;
  /** What its styles say of its layers as a whole, by layer in small letters. */
  styles?: Readonly<Record<string, LayerStyle>>;
}

/** A source with the ways to its records. */
export interface CrossingSource extends SourceSummary {
  library: SymbolLibrary | null;
  /** Its records as they were taken in, in the order of its reader; asked for as often as needed. */
  records: ReadBatches;
  /** Opens the file itself once more, for the proof. */
  reopen(): Promise<OpenSource>;
  /** The file itself, where something may be added to a copy of it. */
  file?(): Promise<ByteSource>;
}
