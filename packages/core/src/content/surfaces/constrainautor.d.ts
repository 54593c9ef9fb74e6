/** What is used of the package, whose own types are a source file that does not hold to the checks of this project. */
export default class Constrainautor {
  /** @param del a triangulation, which is changed in place */
  constructor(del: { coords: ArrayLike<number>; triangles: Uint32Array; halfedges: Int32Array });
  /** Makes a side between two points. @throws Error where that cannot be */
  constrainOne(a: number, b: number): number;
}
