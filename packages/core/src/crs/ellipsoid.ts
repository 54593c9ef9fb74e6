/** Lengths in metres, angles in degrees. */
export interface Ellipsoid {
  name: string;
  /** Semi-major axis, metres. */
  a: number;
  /** Inverse flattening; 0 for a sphere. */
  invF: number;
}
