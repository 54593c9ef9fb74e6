import type { Recipe } from './recipe';

/** All that a deliverable is made by, as one text: the same text means the same files. Order of members does not matter. */
export function rulesText({ frame, chord_m, sources, deliverables }: Recipe, deliverable: string): string {
  return canonical({ frame, chord_m, sources, deliverable: deliverables.find((d) => d.id === deliverable) ?? null });
}

function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const members = Object.entries(value).filter(([, v]) => v !== undefined).sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${members.map(([name, v]) => `${JSON.stringify(name)}:${canonical(v)}`).join(',')}}`;
}
