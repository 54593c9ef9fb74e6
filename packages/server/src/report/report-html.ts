import { DAY } from '@pontrel/contract/palette';
import { escaped } from '@pontrel/core/io/xml';
import { type Block, PICTURE, type Report } from './blocks';

const h = (value: unknown): string => escaped(String(value));

/** A report as one HTML document that needs nothing else: it can be mailed, kept and printed. */
export function reportHtml({ title, of, verdict, sections, made }: Report): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Proof of ${h(title)}</title>
<style>${STYLE}</style></head><body><main>
<header><p class="small">Pontrel · proof of a crossing</p><h1>${h(title)}</h1><p>${h(of)}</p></header>
<section class="verdict ${verdict.good ? 'good' : 'wrong'}"><h2>${h(verdict.title)}</h2>
<p>${h(verdict.text)}</p></section>
${sections.map((s) => `<section><h2>${h(s.title)}</h2>${s.blocks.map(block).join('\n')}</section>`).join('\n')}
<footer>${block({ kind: 'table', head: [], rows: made })}</footer>
</main></body></html>
`;
}

function block(b: Block): string {
  switch (b.kind) {
    case 'text':
      return `<p${b.small ? ' class="small"' : ''}>${h(b.text)}</p>`;
    case 'heading':
      return `<h3>${h(b.text)}</h3>`;
    case 'table': {
      const cell = (c: (typeof b.rows)[number][number]): string =>
        typeof c === 'string' ? `<td>${h(c)}</td>` : 'n' in c ? `<td class="n">${h(c.n)}</td>` : `<td><code>${h(c.code)}</code></td>`;
      return `<table>${b.head.length > 0 ? `<thead><tr>${b.head.map((t) => `<th>${h(t)}</th>`).join('')}</tr></thead>` : ''}<tbody>${b.rows.map((r) => `<tr>${r.map(cell).join('')}</tr>`).join('')}</tbody></table>`;
    }
    case 'bars':
      return `<table class="bars"><thead><tr>${b.head.map((t) => `<th>${h(t)}</th>`).join('')}<th></th></tr></thead><tbody>${b.rows.map((r) => `<tr><td class="n">${h(r.name)}</td><td class="n">${h(r.count)}</td><td><span class="bar" style="width:${Math.max(0.5, 100 * r.share)}%;background:${r.far ? DAY.madder : DAY.verdigris}"></span></td></tr>`).join('')}</tbody></table>`;
    case 'picture': {
      const { width, height } = PICTURE;
      const draw = (k: number, color: string): string =>
        `<path d="${b.picture.paths[k]!.lines}" fill="none" stroke="${color}" stroke-width="${k === 0 ? 2.4 : 0.9}"/><path d="${b.picture.paths[k]!.points}" stroke="${color}" stroke-width="${k === 0 ? 4.5 : 2.2}" stroke-linecap="round"/>`;
      return `<svg viewBox="0 0 ${width} ${height}" role="img" aria-label="The source as broad lines, what was read back as thin ones over it"><rect x=".5" y=".5" width="${width - 1}" height="${height - 1}" fill="${DAY.map}" stroke="${DAY.ink}"/>
${draw(0, DAY.amberLine)}${draw(1, DAY.verdigris)}
<path d="M14 ${height - 16}v5H${14 + b.bar.px}v-5" fill="none" stroke="${DAY.ink}"/><text x="14" y="${height - 22}">${h(b.bar.name)}</text></svg>
<p class="small"><span style="color:${DAY.amberInk}">Broad: the source.</span> <span style="color:${DAY.verdigris}">Thin: what was read back.</span> ${h(b.caption)}</p>`;
    }
  }
}

const STYLE = `
:root{color:${DAY.ink};background:${DAY.paper};font:14px/1.45 "Public Sans",system-ui,sans-serif}body{margin:0}main{max-width:880px;margin:0 auto;padding:32px 28px;background:${DAY.surface}}
h1{font-size:24px;margin:0}h2{font-size:15px;margin:26px 0 8px}h3{font-size:13px;margin:14px 0 4px}p{margin:4px 0}.small{font-size:12px;color:${DAY.muted}}
table{border-collapse:collapse;width:100%;margin:6px 0 10px;font-size:12.5px}th{text-align:left;font-weight:600;border-bottom:1px solid ${DAY.line};padding:3px 8px 3px 0}td{border-bottom:1px solid ${DAY.hairline};padding:3px 8px 3px 0;vertical-align:top;overflow-wrap:anywhere}
td.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap;padding-right:14px}code{font:11px/1.4 "Spline Sans Mono",ui-monospace,monospace}svg{width:100%;height:auto}svg text{font-size:11px;fill:${DAY.ink}}
.verdict{border:1px solid;border-radius:4px;padding:2px 16px 10px;margin-top:18px}.verdict h2{margin-top:10px}.good{background:${DAY.verdigrisTint};border-color:${DAY.verdigrisLine}}.wrong{background:${DAY.madderTint};border-color:${DAY.madderLine}}
.bars td:last-child,.bars th:last-child{width:60%}.bar{display:block;height:9px;border-radius:2px;margin-top:4px}footer{margin-top:26px;color:${DAY.muted}}
@media print{:root,main{background:none}main{padding:0;max-width:none}section{break-inside:avoid-page}@page{size:A4;margin:16mm}}`;
