/** Names of lengths that people type, in metres. */
const LENGTHS: Record<string, number> = {
  mm: 0.001,
  cm: 0.01,
  m: 1,
  km: 1000,
  in: 0.0254,
  ft: 0.3048,
  yd: 0.9144,
  ch: 20.1168,
  link: 0.201168,
  usft: 1200 / 3937,
  ftus: 1200 / 3937,
  lk: 0.201168,
};

/** Metres from "5 mm", "2 ch" or "100 ft"; a bare number is in `bare`. Null when it is no length. @param nought whether 0 is one */
export function parseLength(text: string, bare: string, nought = false): number | null {
  const match = /^\s*([0-9]*[.,]?[0-9]+)\s*([a-z]*)\s*$/i.exec(text);
  if (!match) return null;
  const unit = LENGTHS[(match[2] || bare).toLowerCase()];
  const value = Number(match[1]!.replace(',', '.'));
  return unit === undefined || !(value > 0 || (nought && value === 0)) ? null : value * unit;
}
