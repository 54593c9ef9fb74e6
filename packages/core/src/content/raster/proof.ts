import type { Finding } from '../../model/finding';
import type { AccountRow } from '../account';
import type { Proof } from '../features/proof';
import type { DrawingProof } from '../map/prove-drawing';
import type { ImageMember } from './profile';

/** Something of a picture that does not read back as it should. */
export interface ImageDifference {
  code: 'size' | 'samples' | 'georeferencing' | 'crs' | 'values' | 'registration' | 'pixels' | 'records' | 'drawing' | 'unreadable';
  count: number;
  /** True when the forecast said so beforehand. */
  expected: boolean;
  message: string;
}

/** A place at which the written picture was laid over its source. */
export interface RegistrationPlace {
  /** In the target. */
  x: number;
  y: number;
  /** Pixels of the target to the right and downwards; null where there is too little texture to tell. */
  shift: { dx: number; dy: number } | null;
}

/** What a comparison of a written picture with its sources says. */
export interface ImageProof {
  content: 'images';
  status: 'match' | 'differs' | 'failed';
  /** Pixels of the picture. */
  size: { width: number; height: number; bands: number };
  /** Metres by which its corners, as the file states them, lie off where they should. */
  maxDeviation_m: number;
  /** The four outer corners in the target, and in the system of the first source. */
  corners: { target: [number, number]; source: [number, number] | null }[];
  values: {
    /** All pixels, worked out once more from the sources and compared with what was read back. */
    compared: number;
    different: number;
    /** Mean of the differences, in values of a sample. */
    meanDifference: number;
    /** Pixels compared with what they are without any approximation, and those that are further off than that allows. */
    exact: { compared: number; beyond: number };
  };
  registration: { places: RegistrationPlace[]; rms_px: number | null; largest_px: number | null };
  differences: ImageDifference[];
  findings: Finding[];
  /** Of pixels. */
  account: AccountRow[];
  /** Of the records that are drawn over it; absent where none are. */
  drawn?: DrawingProof;
}

/** The proof of a run as it is kept, with the picture as it was read back. */
export interface ImageRunProof extends ImageProof {
  shown: ImageMember;
}

/** Whether a proof is one of pictures; that of records does not say so. */
export const isImageProof = <P extends ImageProof>(proof: Proof | P): proof is P => 'content' in proof;
