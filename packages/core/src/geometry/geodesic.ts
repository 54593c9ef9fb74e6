import geodesics from 'geographiclib-geodesic';

/** An ellipsoid as geodesics need it: semi-major axis in metres, inverse flattening (0 for a sphere). */
interface Spheroid {
  readonly a: number;
  readonly invF: number;
}

const solvers = new Map<string, InstanceType<typeof geodesics.Geodesic.Geodesic>>();

function solverOf({ a, invF }: Spheroid): InstanceType<typeof geodesics.Geodesic.Geodesic> {
  const key = `${a} ${invF}`;
  let solver = solvers.get(key);
  if (!solver) solvers.set(key, (solver = new geodesics.Geodesic.Geodesic(a, invF === 0 ? 0 : 1 / invF)));
  return solver;
}

/**
 * Distance (metres) and bearing at the first point (degrees clockwise from north, 0 to 360) along the shortest geodesic between two
 * points in degrees. NaN where a coordinate is not finite.
 * Source: C. F. F. Karney, "Algorithms for geodesics", Journal of Geodesy 87 (2013), by the package geographiclib-geodesic.
 */
export function geodesic(
  ellipsoid: Spheroid,
  lon1: number,
  lat1: number,
  lon2: number,
  lat2: number,
): { distance: number; bearing: number } {
  const { s12, azi1 } = solverOf(ellipsoid).Inverse(lat1, lon1, lat2, lon2, DISTANCE_AND_AZIMUTH);
  return { distance: s12 ?? NaN, bearing: s12 === 0 ? 0 : ((azi1 ?? NaN) + 360) % 360 };
}

const DISTANCE_AND_AZIMUTH = geodesics.Geodesic.DISTANCE | geodesics.Geodesic.AZIMUTH;
