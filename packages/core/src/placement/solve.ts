/**
 * Least squares by Householder reflections: the x for which |A x - b| is smallest.
 * Source: G. Golub, C. Van Loan, Matrix Computations, section 5.3.
 * @param a rows of A, each as long as x; it is overwritten
 * @param b one value a row; it is overwritten
 * @returns null when the columns of A depend on each other
 */
export function leastSquares(a: Float64Array[], b: Float64Array): Float64Array | null {
  const rows = a.length,
    columns = a[0]!.length;
  if (rows < columns) return null;
  let largest = 0;
  for (let k = 0; k < columns; k++) {
    let norm = 0;
    for (let i = k; i < rows; i++) norm = Math.hypot(norm, a[i]![k]!);
    largest = Math.max(largest, norm);
    if (!(norm > 1e-10 * largest)) return null;
    const alpha = a[k]![k]! > 0 ? -norm : norm;
    const v = new Float64Array(rows);
    for (let i = k; i < rows; i++) v[i] = a[i]![k]!;
    v[k] = v[k]! - alpha;
    let vv = 0;
    for (let i = k; i < rows; i++) vv += v[i]! * v[i]!;
    if (vv === 0) continue;
    for (let j = k; j < columns; j++) {
      let dot = 0;
      for (let i = k; i < rows; i++) dot += v[i]! * a[i]![j]!;
      const t = (2 * dot) / vv;
      for (let i = k; i < rows; i++) a[i]![j] = a[i]![j]! - t * v[i]!;
    }
    let dot = 0;
    for (let i = k; i < rows; i++) dot += v[i]! * b[i]!;
    const t = (2 * dot) / vv;
    for (let i = k; i < rows; i++) b[i] = b[i]! - t * v[i]!;
  }
  const x = new Float64Array(columns);
  for (let k = columns - 1; k >= 0; k--) {
    let sum = b[k]!;
    for (let j = k + 1; j < columns; j++) sum -= a[k]![j]! * x[j]!;
    x[k] = sum / a[k]![k]!;
  }
  return x;
}
