/** A number without an exponent, with so many decimals at most; its shortest form when none are given. */
export function plainDecimal(v: number, decimals?: number): string {
  if (decimals === undefined) {
    const text = String(v);
    if (!text.includes('e')) return text;
    const plain = v.toFixed(20).replace(/\.?0+$/, '');
    return Number(plain) === v ? plain : text;
  }
  const text = v.toFixed(decimals);
  const short = text.includes('.') ? text.replace(/\.?0+$/, '') : text;
  return short === '-0' ? '0' : short;
}
