/** No-break spaces between thousands (drawn narrow, see the theme), a real minus sign. */
export function grouped(value: number, decimals = 0): string {
  if (!Number.isFinite(value)) return '–';
  const [whole, fraction] = Math.abs(value).toFixed(decimals).split('.');
  const text = whole!.replace(/\B(?=(\d{3})+$)/g, '\u00a0') + (fraction ? `.${fraction}` : '');
  return value < 0 && Number(value.toFixed(decimals)) !== 0 ? `\u2212${text}` : text;
}

export function bytes(n: number): string {
  if (n < 1000) return `${n} B`;
  const units = ['kB', 'MB', 'GB'];
  let value = n / 1000;
  let u = 0;
  while (value >= 1000 && u < 2) {
    value /= 1000;
    u++;
  }
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[u]}`;
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${grouped(n)} ${n === 1 ? one : many}`;
}

/** A length in metres in the unit that reads best. */
export function length(metres: number): string {
  const m = Math.abs(metres);
  if (m === 0) return '0 m';
  if (m < 0.01) return `${Number((metres * 1000).toPrecision(3))} mm`;
  if (m < 1000) return `${grouped(metres, m < 10 ? 3 : m < 100 ? 2 : 1)} m`;
  return `${grouped(metres / 1000, m < 10_000 ? 3 : 2)} km`;
}

/** A deviation in millimetres, never shown as nothing when it is something. */
export function deviation(metres: number): string {
  const mm = metres * 1000;
  if (mm === 0) return '0 mm';
  if (mm < 0.001) return '< 0.001 mm';
  return `${mm < 1 ? mm.toFixed(3) : mm < 100 ? mm.toFixed(2) : grouped(mm)} mm`;
}

/** A value of an attribute as it is shown. */
export function shown(value: string | number | boolean | null | undefined): string {
  if (value === null || value === undefined || value === '') return '–';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value).replaceAll('\n', ' ↵ ');
}

export function clock(iso: string): string {
  return new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}

export function day(iso: string): string {
  const date = new Date(iso);
  const midnight = (d: Date): number => new Date(d.getFullYear(), d.getMonth(), d.getDate()).getTime();
  const ago = Math.round((midnight(new Date()) - midnight(date)) / 86_400_000);
  return ago === 0
    ? 'Today'
    : ago === 1
      ? 'Yesterday'
      : date.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', ...(ago > 300 ? { year: 'numeric' } : {}) });
}

/** The denominator of a scale: "1:5000", "1 : 5 000" or "5000". Null when it is none. */
export function readScale(text: string): number | null {
  const digits = /^\s*(?:1\s*:\s*)?(\d[\d\s\u00a0]*)\s*$/.exec(text)?.[1]?.replace(/[\s\u00a0]/g, '');
  const value = Number(digits);
  return digits !== undefined && value > 0 && Number.isSafeInteger(value) ? value : null;
}

/** So many pixels, for people. */
export const pixelsText = (n: number): string => (n >= 1e6 ? `${(n / 1e6).toFixed(1)} million px` : `${grouped(n)} px`);
