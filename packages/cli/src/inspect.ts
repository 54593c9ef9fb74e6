import { joinFields, type LayerProfile } from '@pontrel/core/content/features/profile';
import { KINDS } from '@pontrel/core/model/batch';
import { type Crs, isPlane } from '@pontrel/core/crs/crs';
import { findingText } from './account-json';
import { gather, type Gathered } from './gathered';
import { crsJson, imageFormatOf, type KnownImage, knownImage, rasterJson, rasterText } from './images';
import type { Result } from './result';

/** Says what is in files: system, unit, layers with counts, kinds and fields, and what the reader found. */
export async function inspect(files: readonly string[]): Promise<Result> {
  const said: { json: unknown; text: string }[] = [];
  for (const file of files) {
    const format = await imageFormatOf(file);
    if (format) said.push(imageSaid(await knownImage(file, format)));
    else {
      const source = await gather(file);
      said.push({ json: sourceJson(source), text: sourceText(source) });
    }
  }
  return { json: { sources: said.map((s) => s.json) }, text: said.map((s) => s.text).join('\n\n'), exit: 0 };
}

function imageSaid(image: KnownImage): { json: unknown; text: string } {
  const { path, format, where, findings } = image;
  const { crs } = where;
  return {
    json: {
      path,
      format: format.id,
      crs: crsJson(crs),
      units: unitsOf(crs),
      layers: [],
      raster: rasterJson(image),
      findings,
    },
    text: [
      `${path}: ${format.name}, ${crs ? `${crs.id ?? ''} ${crs.name}` : 'no CRS stated'}`,
      rasterText(image),
      ...findings.map(findingText),
    ].join('\n'),
  };
}

const unitsOf = (crs: Crs | null): string | null => (crs ? (isPlane(crs) ? crs.unit.name : 'degree') : null);

function sourceJson(s: Gathered): unknown {
  const { crs } = s.facts;
  return {
    path: s.path,
    format: s.format.id,
    crs: crsJson(crs),
    units: s.facts.unit?.name ?? unitsOf(crs),
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
  lines.push(...s.findings.map(findingText));
  return lines.join('\n');
}
