import type { CrossingState } from '@pontrel/contract/crossing';
import { DAY } from '@pontrel/contract/palette';
import type { Proof } from '@pontrel/core/crossing/proof';
import { escaped } from '@pontrel/core/formats/xml';
import type { Picture } from '../tiles/sample-picture';

export interface ReportFacts {
  crossing: Pick<CrossingState, 'name' | 'frame'>;
  deliverable: { name: string; format: string; crs: { id: string; name: string } };
  finished: string;
  seconds: number;
  proof: Proof;
  files: { name: string; bytes: number; sha256: string }[];
  sources: { name: string; format: string; bytes: number; records: number; sha256: string; placed: string }[];
  picture: Picture | null;
  /** The way of one coordinate, step by step. */
  way: { source: string; steps: { name: string; x: number; y: number; accuracy: string }[] }[];
  versions: [string, string][];
  stale: boolean;
}

export const PICTURE = { width: 680, height: 400 };

const h = (value: unknown): string => escaped(String(value));
const number = (n: number): string => n.toLocaleString('en-GB', { maximumFractionDigits: 6 }).replaceAll(',', '\u202f');
const bytes = (n: number): string => (n < 1000 ? `${n} B` : n < 1e6 ? `${(n / 1000).toFixed(1)} kB` : `${(n / 1e6).toFixed(1)} MB`);
const metres = (m: number): string => (m === 0 ? '0' : m < 1e-6 ? `${Number((m * 1e9).toPrecision(2))} nm` : m < 1e-3 ? `${Number((m * 1e6).toPrecision(3))} µm` : m < 1 ? `${Number((m * 1e3).toPrecision(3))} mm` : `${Number(m.toPrecision(4))} m`);
const plural = (n: number, one: string): string => `${number(n)} ${n === 1 ? one : `${one}s`}`;

/** A report of one run as one HTML document that needs nothing else: it can be mailed, kept and printed. */
export function reportHtml(f: ReportFacts): string {
  const { proof } = f;
  const unforeseen = proof.differences.filter((d) => !d.expected), foreseen = proof.differences.filter((d) => d.expected);
  const match = proof.status === 'match';
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Proof of ${h(f.deliverable.name)}</title>
<style>${STYLE}</style></head><body><main>
<header><p class="small">Pontrel · proof of a crossing</p><h1>${h(f.deliverable.name)}</h1><p>${h(f.crossing.name)}</p></header>
<section class="verdict ${match ? 'good' : 'wrong'}"><h2>${match ? 'Match: nothing was lost that was not forecast' : `${plural(unforeseen.length, 'difference')} that the forecast did not announce`}</h2>
<p>${number(proof.records.out)} of ${plural(proof.records.in, 'record')} read back; positions within ${metres(proof.maxDeviation_m)} of where they were, ${metres(proof.tolerance_m)} allowed.${f.stale ? ' The rules have been changed since: what they would write now may differ.' : ''}</p></section>
<section><h2>What was handed over</h2>${table([], [
    ['Format', f.deliverable.format], ['Coordinate system', `${f.deliverable.crs.id} ${f.deliverable.crs.name}`], ['Reference frame of the crossing', f.crossing.frame ? `${f.crossing.frame.label} ${f.crossing.frame.name}` : 'none'], ['Written and proved', `${f.finished.replace('T', ' ').slice(0, 19)} UTC, in ${f.seconds.toFixed(1)} s`],
  ])}
${table(['File', 'Bytes', 'SHA-256'], f.files.map((x) => [x.name, { n: bytes(x.bytes) }, { code: x.sha256 }]))}</section>
${f.picture ? picture(f.picture) : ''}
<section><h2>Where it came from</h2>${table(['Source', 'Format', 'Records', 'Placed as', 'SHA-256'], f.sources.map((s) => [s.name, s.format, { n: number(s.records) }, s.placed, { code: s.sha256 }]))}</section>
<section><h2>The path of a coordinate</h2>${f.way.length === 0 ? '<p>No source was placed.</p>' : f.way.map((w) => `<h3>${h(w.source)}</h3>${table(['Step', 'East', 'North', 'Accuracy'], w.steps.map((s) => [s.name, { n: coordinate(s.x) }, { n: coordinate(s.y) }, s.accuracy]))}`).join('')}
<p class="small">The files agree with the source as said above; the source itself may be off by the accuracy of the change of datum, which no comparison can see.</p></section>
<section><h2>Records and positions</h2>${table(['Set', 'Kind', 'In', 'Read back', 'Vertices', 'Farthest off', 'In height'], proof.sets.map((s) => [s.name, s.kind, { n: number(s.in) }, { n: number(s.out) }, { n: number(s.vertices) }, { n: metres(s.maxDeviation_m) }, { n: metres(s.maxHeightDeviation_m) }]))}
${histogram(proof)}</section>
<section><h2>Fields</h2>${proof.sets.map((s) => `<h3>${h(s.name)}</h3>${table(['In the source', 'In the file', 'Values', 'The same'], s.fields.map((x) => [x.from, x.to, { n: number(x.of) }, { n: number(x.same) }]))}`).join('')}</section>
<section><h2>Differences</h2>${differences('That the forecast did not announce', unforeseen)}${differences('As the forecast announced', foreseen)}${proof.differences.length === 0 ? '<p>None.</p>' : ''}</section>
${proof.findings.length > 0 ? `<section><h2>Findings</h2>${table(['Count', 'Where', 'What'], proof.findings.map((x) => [{ n: number(x.count) }, x.place ?? '', x.message]))}</section>` : ''}
<footer>${table([], f.versions)}</footer>
</main></body></html>
`;
}

const coordinate = (v: number): string => (Math.abs(v) <= 360 ? v.toFixed(9) : v.toFixed(4));

type Cell = string | { n: string } | { code: string };

function table(head: readonly string[], rows: readonly (readonly Cell[])[]): string {
  const cell = (c: Cell): string => (typeof c === 'string' ? `<td>${h(c)}</td>` : 'n' in c ? `<td class="n">${h(c.n)}</td>` : `<td><code>${h(c.code)}</code></td>`);
  return `<table>${head.length > 0 ? `<thead><tr>${head.map((t) => `<th>${h(t)}</th>`).join('')}</tr></thead>` : ''}<tbody>${rows.map((r) => `<tr>${r.map(cell).join('')}</tr>`).join('')}</tbody></table>`;
}

function differences(title: string, list: Proof['differences']): string {
  if (list.length === 0) return '';
  return `<h3>${title}</h3>${table(['Count', 'Set', 'Field', 'What', 'First of them'], list.map((d) => [{ n: number(d.count) }, d.set, d.field ?? '', d.message, d.samples.slice(0, 3).map((s) => `record ${s.record}: ${String(s.source)} → ${String(s.readBack)}`).join('; ')]))}`;
}

function picture(p: Picture): string {
  const { width, height } = PICTURE;
  // a round length of about a fifth of the width
  const raw = (width / 5) * p.scale_m, power = 10 ** Math.floor(Math.log10(raw));
  const bar = [5, 2, 1].map((k) => k * power).find((k) => k <= raw)!;
  const draw = (k: number, color: string): string => `<path d="${p.paths[k]!.lines}" fill="none" stroke="${color}" stroke-width="${k === 0 ? 2.4 : 0.9}"/><path d="${p.paths[k]!.points}" stroke="${color}" stroke-width="${k === 0 ? 4.5 : 2.2}" stroke-linecap="round"/>`;
  return `<section><h2>Source and read-back, one over the other</h2><svg viewBox="0 0 ${width} ${height}" role="img" aria-label="The source as broad lines, what was read back as thin ones over it"><rect x=".5" y=".5" width="${width - 1}" height="${height - 1}" fill="${DAY.map}" stroke="${DAY.ink}"/>
${draw(0, DAY.amberLine)}${draw(1, DAY.verdigris)}
<path d="M14 ${height - 16}v5H${14 + bar / p.scale_m}v-5" fill="none" stroke="${DAY.ink}"/><text x="14" y="${height - 22}">${bar >= 1000 ? `${number(bar / 1000)} km` : `${number(bar)} m`}</text></svg>
<p class="small"><span style="color:${DAY.amberInk}">Broad: the source.</span> <span style="color:${DAY.verdigris}">Thin: what was read back.</span> ${plural(p.drawn, 'record')} drawn${p.drawn >= 3000 ? ', evenly picked of large layers' : ''}. ${p.box.map((v) => coordinate(v)).join(' ')}</p></section>`;
}

function histogram({ histogram: bars, tolerance_m }: Proof): string {
  const most = Math.max(1, ...bars.map((b) => b.count));
  return `<table class="bars"><thead><tr><th>Off by at most</th><th>Vertices</th><th></th></tr></thead><tbody>${bars.map((b) => `<tr><td class="n">${b.upTo_m === null ? 'more' : metres(b.upTo_m)}</td><td class="n">${number(b.count)}</td><td><span class="bar" style="width:${Math.max(0.5, (100 * b.count) / most)}%;background:${b.upTo_m === null || b.upTo_m > tolerance_m * 10 ? DAY.madder : DAY.verdigris}"></span></td></tr>`).join('')}</tbody></table>`;
}

const STYLE = `
:root{color:${DAY.ink};background:${DAY.paper};font:14px/1.45 "Public Sans",system-ui,sans-serif}body{margin:0}main{max-width:880px;margin:0 auto;padding:32px 28px;background:${DAY.surface}}
h1{font-size:24px;margin:0}h2{font-size:15px;margin:26px 0 8px}h3{font-size:13px;margin:14px 0 4px}p{margin:4px 0}.small{font-size:12px;color:${DAY.muted}}
table{border-collapse:collapse;width:100%;margin:6px 0 10px;font-size:12.5px}th{text-align:left;font-weight:600;border-bottom:1px solid ${DAY.line};padding:3px 8px 3px 0}td{border-bottom:1px solid ${DAY.hairline};padding:3px 8px 3px 0;vertical-align:top;overflow-wrap:anywhere}
td.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap;padding-right:14px}code{font:11px/1.4 "Spline Sans Mono",ui-monospace,monospace}svg{width:100%;height:auto}svg text{font-size:11px;fill:${DAY.ink}}
.verdict{border:1px solid;border-radius:4px;padding:2px 16px 10px;margin-top:18px}.verdict h2{margin-top:10px}.good{background:${DAY.verdigrisTint};border-color:${DAY.verdigrisLine}}.wrong{background:${DAY.madderTint};border-color:${DAY.madderLine}}
.bars td:last-child,.bars th:last-child{width:60%}.bar{display:block;height:9px;border-radius:2px;margin-top:4px}footer{margin-top:26px;color:${DAY.muted}}
@media print{:root,main{background:none}main{padding:0;max-width:none}section{break-inside:avoid-page}@page{size:A4;margin:16mm}}`;
