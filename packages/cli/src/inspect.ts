import { joinFields, type LayerProfile } from '@pontrel/core/content/features/profile';
import { KINDS } from '@pontrel/core/model/batch';
import { gather, type Gathered } from './gathered';
import type { Result } from './result';

/** Says what is in files: system, unit, layers with counts, kinds and fields, and what the reader found. */
export async function inspect(files: readonly string[]): Promise<Result> {
  const sources: Gathered[] = [];
  for (const file of files) sources.push(await gather(file));
  return { json: { sources: sources.map(sourceJson) }, text: sources.map(sourceText).join('\n\n'), exit: 0 };
}

function sourceJson(s: Gathered): unknown {
  const { crs } = s.facts;
  return {
    path: s.path,
    format: s.format.id,
    crs: { id: crs?.id ?? null, name: crs?.name ?? null, origin: crs ? 'declared' : 'none' },
    units: s.facts.unit?.name ?? (crs?.kind === 'projected' ? crs.unit.name : crs ? 'degree' : null),
    layers: s.layers.map((layer) => ({
      name: layer.name,
      count: layer.count,
      kinds: kindCounts(layer),
      extent: layer.extent,
      fields: joinFields(layer.groups).map((f) => ({ name: f.name, type: f.type })),
    })),
    findings: s.findings,
  };
}

function kindCounts(layer: LayerProfile): Record<string, number> {
  return Object.fromEntries(KINDS.map((kind) => [kind, layer.groups.filter((g) => g.kind === kind).reduce((n, g) => n + g.count, 0)]));
}

function sourceText(s: Gathered): string {
  const lines = [
    `${s.path}: ${s.format.name}${s.facts.version ? ` ${s.facts.version}` : ''}, ${s.facts.crs ? `${s.facts.crs.id ?? ''} ${s.facts.crs.name}` : 'no CRS stated'}${s.facts.unit ? `, unit ${s.facts.unit.name}` : ''}`,
  ];
  const width = Math.max(5, ...s.layers.map((l) => l.name.length));
  for (const layer of s.layers) {
    const kinds = Object.entries(kindCounts(layer))
      .filter(([, n]) => n > 0)
      .map(([k, n]) => `${n} ${k}`)
      .join(', ');
    lines.push(`  ${layer.name.padEnd(width)}  ${String(layer.count).padStart(8)}  ${kinds}`);
  }
  for (const f of s.findings) lines.push(`  ${f.severity}: ${f.count} × ${f.message}${f.location ? ` (${f.location})` : ''}`);
  return lines.join('\n');
}
