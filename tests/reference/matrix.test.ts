import { mkdirSync, writeFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { quayDesign } from '@pontrel/demo/quay-design';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Gathered } from './cross-file';
import { oddLayers } from './odd-layers';

const NZTM = 'EPSG:2193';
const WRITTEN = FORMATS.filter((f) => f.write);

/** Every source format into every target format: what comes out is what the forecast said, in every cell. */
describe('from every format into every format', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;
  const into = (): string => {
    const path = `${folder}/${++made}`;
    mkdirSync(path);
    return path;
  };

  /** The odd layers, written as a format and gathered again. */
  async function as(format: string): Promise<Gathered[]> {
    const path = into();
    const crs = prescribedCrs(WRITTEN.find((f) => f.id === format)!) ?? NZTM;
    const { prepared, proof } = await crossInto(path, oddLayers(), { format, crs, placement: { crs: NZTM, unit_m: null } });
    expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
    const files = prepared.format.write!.files(prepared.plan.sets, { stem: prepared.target.stem, options: prepared.target.options }).filter((f) => f.sets.length > 0);
    return Promise.all(files.map((f) => gather(`${path}/${f.name}`)));
  }

  for (const from of WRITTEN) {
    describe(`from ${from.name}`, () => {
      it.each(WRITTEN.map((f) => [f.name, f] as const))('into %s', async (_name, to) => {
        const sources = await as(from.id);
        const crs = prescribedCrs(to) ?? NZTM;
        const placement = { crs: prescribedCrs(from) ?? NZTM, unit_m: null };
        const { prepared, proof, run } = await crossInto(into(), sources, { format: to.id, crs, placement });
        expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
        expect(proof.status).toBe('match');
        expect([proof.records.in, proof.records.out]).toEqual([prepared.total, prepared.total]);
        expect(prepared.forecast.blocked).toEqual([]);
        expect(run.findings.list().filter((f) => f.severity === 'wrong')).toEqual([]);
      });
    });
  }

  it.each(WRITTEN.map((f) => [f.name, f] as const))('the demo drawing into %s', async (_name, to) => {
    writeFileSync(`${folder}/quay.dxf`, quayDesign(1987));
    const quay = await gather(`${folder}/quay.dxf`);
    const { prepared, proof } = await crossInto(into(), quay, { format: to.id, crs: prescribedCrs(to) ?? NZTM, placement: { crs: NZTM, unit_m: 0.001 } });
    expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
    expect([proof.status, proof.records.out]).toEqual(['match', prepared.total]);
  });
});
