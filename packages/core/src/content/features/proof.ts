import type { PlainValue } from '../../model/value';
import type { Finding } from '../../model/finding';
import type { AccountRow } from '../account';

/** Something that does not read back as it went in. */
export interface Difference {
  code: 'records' | 'account' | 'geometry' | 'height' | 'measure' | 'crs' | 'field' | 'value' | 'symbology' | 'picture' | 'unreadable';
  set: string;
  field?: string;
  count: number;
  /** True when the forecast said so beforehand. */
  expected: boolean;
  message: string;
  /** The first few, for looking at; x and y are in the frame where there is one, else in the source's CRS, and null for a record without a place. */
  samples: { record: number; source: PlainValue; readBack: PlainValue; x: number | null; y: number | null }[];
}

/** How many values of a field arrived as they were, and of how many. */
export interface FieldProof {
  from: string;
  to: string;
  same: number;
  of: number;
}

/** What the comparison of one set says: its records and vertices, and how far the worst of them lies off, metres. */
export interface SetProof {
  name: string;
  kind: string;
  in: number;
  out: number;
  vertices: number;
  maxDeviation_m: number;
  maxHeightDeviation_m: number;
  /** Vertices whose measures (M) were compared; absent where the files have none. */
  measured?: number;
  crs: string | null;
  fields: FieldProof[];
  /** Records that the target can draw as they were, in some part at least, and those that it does; not known of proofs made long ago. */
  symbology?: { same: number; of: number };
}

/** What proofs say, the worst first. */
const STATUSES = ['failed', 'differs', 'match'] as const;
export type ProofStatus = (typeof STATUSES)[number];

/** What several proofs say together: what the worst of them does. */
export const worstOf = (proofs: readonly { status: ProofStatus }[]): ProofStatus =>
  STATUSES.find((status) => proofs.some((p) => p.status === status))!;

/** What a comparison of what was written with its sources says of records. */
export interface Proof {
  status: ProofStatus;
  records: { in: number; out: number };
  maxDeviation_m: number;
  /** Metres allowed for a match. */
  tolerance_m: number;
  /** Where the largest deviation is, in the frame where there is one, else in the source's CRS. */
  worst: { x: number | null; y: number | null; set: string; record: number } | null;
  /** Vertices by deviation: upper limits in metres, null for those beyond the last limit, and counts. */
  histogram: { upTo_m: number | null; count: number }[];
  sets: SetProof[];
  differences: Difference[];
  findings: Finding[];
  /** What became of everything that was read, by layer of each source; not known of proofs made long ago. */
  account?: AccountRow[];
  /** How the positions of each source came across, and what that leaves open: the files agree with the source, which may itself be off by this. */
  ways?: { source: string; accuracy_m: number | null; steps: { id: string | null; name: string; accuracy_m: number | null }[] }[];
}

/** What was announced before the run: reasons for which records of a layer stay behind, with how many at most. */
export type Announced = (source: string, layer: string, reason: string) => number;
