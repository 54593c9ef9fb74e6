import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { quayDesign } from '@pontrel/demo/quay-design';
import type { FeatureFormat } from '@pontrel/core/formats/format';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Gathered } from './cross-file';
import { oddLayers } from './odd-layers';

const NZTM = 'EPSG:2193';
const WRITTEN = FORMATS.filter((f) => f.features.write);

const DOCUMENT = path.resolve(import.meta.dirname, '../../docs/fidelity.md');
const BEGIN = '<!-- the matrix, made by its test -->',
  END = '<!-- end of the matrix -->';

/** Every choice of every option once, the others as they are at first; lengths half as long again. */
function optionSets(format: FeatureFormat): Record<string, string | number>[] {
  return format.features.write!.options.flatMap((o): Record<string, string | number>[] =>
    o.kind === 'choice'
      ? o.choices.slice(1).map((c) => ({ [o.id]: c.value }))
      : o.kind === 'length'
        ? [{ ...NEEDED[o.id], [o.id]: o.initial_m * 1.5 + 0.001 }]
        : [{ [o.id]: TEXTS[o.id] ?? '{level} {name}' }],
  );
}

/** What an option needs beside it to have a meaning. */
const NEEDED: Record<string, Record<string, string>> = {
  raise: { heights: 'absolute' },
  width_m: { widths: 'metres' },
  symbol_size: { points: 'block' },
};
const TEXTS: Record<string, string> = {
  image: 'note',
  label_color: '#a8492a',
  label_angle: 'text_angle',
  link: 'http://localhost/quay?a=1&b=2',
};

/** Every source format into every target format: what comes out is what the forecast said, in every cell. */
describe('from every format into every format', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;
  const cells = new Map<string, string>();
  const announcements = new Map<string, string[]>();
  const into = (): string => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    return path;
  };

  /** The odd layers, written as a format and gathered again. */
  async function as(format: string): Promise<Gathered[]> {
    const path = into();
    const crs = prescribedCrs(WRITTEN.find((f) => f.id === format)!) ?? NZTM;
    const { prepared, proof } = await crossInto(path, oddLayers(true), { format, crs, placement: { crs: NZTM, unit_m: null } });
    expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
    const files = prepared.format.features
      .write!.files(prepared.plan.sets, { stem: prepared.target.stem, options: prepared.target.options })
      .filter((f) => f.sets.length > 0);
    return Promise.all(files.map((f) => gather(`${path}/${f.name}`)));
  }

  for (const from of WRITTEN) {
    describe(`from ${from.name}`, () => {
      it.each(WRITTEN.map((f) => [f.name, f] as const))('into %s', async (_name, to) => {
        const sources = await as(from.id);
        const crs = prescribedCrs(to) ?? NZTM;
        const placement = { crs: prescribedCrs(from) ?? NZTM, unit_m: null };
        const { prepared, proof, report } = await crossInto(into(), sources, { format: to.id, crs, placement });
        expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
        expect(proof.status).toBe('match');
        expect([proof.records.in, proof.records.out]).toEqual([prepared.forecast.arriving, prepared.forecast.arriving]);
        expect(prepared.forecast.blocked).toEqual([]);
        expect(report.findings.filter((f) => f.severity === 'wrong')).toEqual([]);
        const announced = proof.differences.reduce((n, d) => n + d.count, 0);
        cells.set(
          `${from.name}\n${to.name}`,
          `${proof.records.out} of ${proof.records.in}${announced > 0 ? `, ${announced} ${announced === 1 ? 'value' : 'values'} as announced` : ''}`,
        );
      });
    });
  }

  it.each(WRITTEN.map((f) => [f.name, f] as const))('what %s changes is forecast, layer by layer', async (name, to) => {
    const {
      prepared: { forecast },
    } = await crossInto(into(), oddLayers(true), { format: to.id, crs: prescribedCrs(to) ?? NZTM, placement: { crs: NZTM, unit_m: null } });
    const told = forecast.rows.flatMap((r) => r.effects.map((e) => `${r.layer}: ${e.message}`));
    const fields = forecast.fields.renamed.map((f) => `${f.from} becomes ${f.to}`);
    announcements.set(name, [
      ...told,
      ...fields,
      ...forecast.findings.map((f) => `${f.location === undefined ? '' : `${f.location}: `}${f.message}`),
    ]);
    // records without a place stay behind where a format has no room for them, and nothing else does
    expect(forecast.totals.left).toBe(to.features.carries.kinds.none === null ? 2 : 0);
  });

  it('and the tables in docs/fidelity.md say the same', () => {
    const head = `| from \\ into | ${WRITTEN.map((f) => f.name).join(' | ')} |\n|${' --- |'.repeat(WRITTEN.length + 1)}`;
    const rows = WRITTEN.map((from) => `| **${from.name}** | ${WRITTEN.map((to) => cells.get(`${from.name}\n${to.name}`)).join(' | ')} |`);
    const lists = [...announcements].map(
      ([name, list]) =>
        `**${name}**: ${list.length === 0 ? 'nothing is announced.' : `${list.map((l) => l.replace(/\.$/, '').replaceAll('|', '\\|').replaceAll('<', '&lt;')).join('; ')}.`}`,
    );
    const wanted = `${BEGIN}\n${[head, ...rows].join('\n')}\n\n${lists.join('\n\n')}\n${END}`;
    const text = readFileSync(DOCUMENT, 'utf8');
    const [before, after] = [text.slice(0, text.indexOf(BEGIN)), text.slice(text.indexOf(END) + END.length)];
    if (process.env.UPDATE_FIDELITY) writeFileSync(DOCUMENT, before + wanted + after);
    else
      expect(text.slice(before.length, text.length - after.length), 'run UPDATE_FIDELITY=1 npx vitest run --project reference matrix').toBe(
        wanted,
      );
  });

  it.each(WRITTEN.flatMap((f) => optionSets(f).map((options) => [f.name, JSON.stringify(options), f, options] as const)))(
    'the odd layers into %s with %s',
    async (_name, _options, to, options) => {
      const { prepared, proof } = await crossInto(into(), oddLayers(true), {
        format: to.id,
        crs: prescribedCrs(to, options) ?? NZTM,
        placement: { crs: NZTM, unit_m: null },
        options,
      });
      expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
      expect([proof.status, proof.records.out]).toEqual(['match', prepared.forecast.arriving]);
    },
  );

  it.each(WRITTEN.map((f) => [f.name, f] as const))('the demo drawing into %s', async (_name, to) => {
    writeFileSync(`${folder}/quay.dxf`, quayDesign(1987));
    const quay = await gather(`${folder}/quay.dxf`);
    const { prepared, proof } = await crossInto(into(), quay, {
      format: to.id,
      crs: prescribedCrs(to) ?? NZTM,
      placement: { crs: NZTM, unit_m: 0.001 },
      // a cell holds no more than 32 767 characters: finer chords of the kerb would be refused
      ...(to.id === 'spreadsheet' ? { chord_m: 0.05 } : {}),
    });
    expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
    expect([proof.status, proof.records.out]).toEqual(['match', prepared.forecast.arriving]);
  });
});
