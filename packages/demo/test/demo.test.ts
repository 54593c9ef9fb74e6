import { describe, expect, it } from 'vitest';
import { readText } from '../../core/test/drawing';
import { fitPairs } from '@pontrel/core/placement/fit';
import { smellOf } from '@pontrel/core/placement/ratio';
import { sitePlan } from '../src/site-plan';
import { quayDesign } from '../src/quay-design';
import { surveyDrawing } from '../src/survey';

describe('the demo drawings', () => {
  it('are the same for the same seed, and others for another', () => {
    expect(quayDesign(1987)).toBe(quayDesign(1987));
    expect(surveyDrawing(1987)).toBe(surveyDrawing(1987));
    expect(quayDesign(1)).not.toBe(quayDesign(2));
  });

  it('hold the troubles of the trade on purpose', async () => {
    const { records, findings } = await readText(quayDesign(1987));
    const entities = new Set(records.map((r) => r.entity));
    expect([...entities].sort()).toEqual([
      'ARC',
      'CIRCLE',
      'HATCH',
      'INSERT',
      'LINE',
      'LWPOLYLINE',
      'MTEXT',
      'POINT',
      'POLYLINE',
      'SOLID',
      'SPLINE',
      'TEXT',
    ]);
    // attributes whose names a DBF cannot hold, and would cut to the same ten letters
    const bollard = records.find((r) => r.layer === 'BOLLARD')!;
    expect(Object.keys(bollard.attributes)).toEqual(expect.arrayContaining(['INSTALLATION_YEAR', 'INSTALLATION_CREW']));
    // curves, heights, text that is not Latin-1, objects that are not read
    expect(records.some((r) => r.layer === 'QUAY-EDGE' && r.parts.flat().some((v) => v[3] !== 0))).toBe(true);
    expect(records.filter((r) => r.layer === 'SEWER').every((r) => r.parts.flat().every((v) => v[2] !== 0))).toBe(true);
    expect(records.some((r) => String(r.attributes.STREET ?? r.attributes.text ?? '').includes('Whārangi'))).toBe(true);
    expect(findings.map((f) => f.message.split(' ')[0]).sort()).toEqual(['3DSOLID']);
  });

  it('have a plan in feet on a grid of its own, which the four marks that it shares with the quay fit', async () => {
    const marksOf = (records: Awaited<ReturnType<typeof readText>>['records'], layer: string) =>
      new Map(records.filter((r) => r.layer === layer).map((r) => [String(r.attributes.MARK), r.parts[0]![0]!]));
    const [site, quay] = [await readText(sitePlan()), await readText(quayDesign(1987))];
    const [from, to] = [marksOf(site.records, 'MARK'), marksOf(quay.records, 'SURVEY-MARK')];
    const pairs = [...from].map(([name, p]) => ({
      name,
      from: [p[0]!, p[1]!] as const,
      to: [to.get(name)![0]! / 1000, to.get(name)![1]! / 1000] as const,
    }));
    const fit = fitPairs('similarity', pairs);
    expect(pairs.length).toBe(4);
    expect(fit.rms).toBeLessThan(1e-6);
    expect(smellOf(fit.scale, 1, fit.scaleSpread, null)).toBe('The numbers are feet, not metres.');
  });

  it('can be made larger', async () => {
    const [small, large] = [await readText(quayDesign(5, 1)), await readText(quayDesign(5, 4))];
    expect(large.records.length).toBeGreaterThan(1.8 * small.records.length);
  });
});
