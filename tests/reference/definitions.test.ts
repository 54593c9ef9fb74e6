import { describe, expect, it } from 'vitest';
import type { AnyCrs } from '@pontrel/core/crs/crs';
import { readProjString, writeProjString } from '@pontrel/core/crs/definitions/proj-string';
import { readDefinition, readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { writePrj, writeWkt1 } from '@pontrel/core/crs/definitions/wkt1';
import { writeWkt2 } from '@pontrel/core/crs/definitions/wkt2';
import { projectorOf } from '@pontrel/core/crs/projector';
import { identify, sameDefinition } from '@pontrel/core/crs/registry/identify';
import { allCrs, isDeprecated, lookup } from '@pontrel/core/crs/registry/registry';
import { rows } from '@pontrel/core/crs/registry/tables';
import { python } from './python';

const methodOf = (crs: AnyCrs): number => (crs.kind === 'projected' ? crs.method : 0);
const registered = [...allCrs()].filter((c) => !isDeprecated(c.id!));
const often = new Map<number, number>();
for (const crs of registered) often.set(methodOf(crs), (often.get(methodOf(crs)) ?? 0) + 1);
/** Every fourth of the systems of a common method, and all of the rare ones. */
const positions = registered.filter((c, k) => k % 4 === 0 || often.get(methodOf(c))! < 60);
const heights = [...rows('vertical'), ...rows('compound')].map((r) => lookup(r[0]!)!).filter((c) => !isDeprecated(c.id!));

/** Reasons for which pyproj 3.4 does not call a text the same system, by method or code; each was looked into. */
const APART: Record<string, string> = {
  'wkt2 1111': 'a projected system with ellipsoidal heights, which pyproj gives three axes',
  'wkt1 1111': 'the same',
  'prj 1111': 'the same, and pyproj writes two texts one after the other',
  'wkt1 1027': 'PROJ has no name for it in the first generation',
  'wkt1 9824': 'PROJ has no name for it in the first generation',
  'prj 9833': 'PROJ cannot write it in the dialect',
  'prj EPSG:8351': 'the dialect calls two datums D_S_JTSK',
  'prj EPSG:8352': 'the same',
  'prj EPSG:8353': 'the same',
  'proj 9826': 'PROJ 9.1 makes no transformation of the code itself; the text is compared with the formulas in the check of projections',
  'proj 9817': 'the same',
};

/** Texts of pyproj that leave out what would tell two systems apart. */
const UNKNOWN: Record<string, string> = {
  'wkt1 9819': 'the text has no axes: the system that counts to the north is meant as likely',
  'wkt1 9806': 'axes to the west and south are not written',
  'prj 9806': 'the same',
  'wkt1 1027': 'written as the method on the ellipsoid',
  'prj 1027': 'the same',
  'prj 1111': 'two texts one after the other',
};

/** PROJ strings that PROJ itself writes for another projection than the code has. */
const TO_PROJ: Record<string, string> = {
  'proj 1028': 'a sphere in PROJ 9.1',
  'proj 9806': 'axes to the west and south are not written',
  'proj 1027': 'the ellipsoid in PROJ 9.1',
  'proj 9803': 'without the turn of this method',
};

function written(crs: AnyCrs, form: string): string | null {
  try {
    if (form === 'wkt2') return writeWkt2(crs);
    if (form === 'wkt1') return writeWkt1(crs);
    if (crs.kind !== 'geographic' && crs.kind !== 'projected') return null;
    return form === 'prj' ? writePrj(crs) : writeProjString(crs);
  } catch {
    return null;
  }
}

describe('definitions, against pyproj live', () => {
  const texts = ['wkt2', 'wkt1', 'prj', 'proj'].flatMap((form) =>
    [...positions, ...(form === 'wkt2' ? heights : [])].map((crs) => [crs.id!, form, written(crs, form)] as const),
  );
  const answer = python<{ apart: [string, string, string][]; texts: [string, string, string | null][] }>('definitions.py', {
    written: texts.filter(([, , text]) => text !== null),
    codes: positions.map((c) => c.id!),
  });
  const reason = (table: Record<string, string>, code: string, form: string): string | undefined =>
    table[`${form} ${methodOf(lookup(code)!)}`] ?? table[`${form} ${code}`];

  it.each(['wkt2', 'wkt1', 'prj', 'proj'])('what is written as %s is the same system to pyproj', (form) => {
    const all = texts.filter(([, f, text]) => f === form && text !== null);
    const apart = answer.apart.filter(([, f]) => f === form);
    console.log(
      `${form}: ${all.length} systems written, ${all.length - apart.length} read as the same by pyproj; apart: ${apart.map(([code]) => code).join(' ')}`,
    );
    expect(apart.filter(([code]) => !reason(APART, code, form)).slice(0, 20)).toEqual([]);
    expect(all.length).toBeGreaterThan(1400);
  });

  it.each(['wkt2', 'wkt1', 'prj'])('what pyproj writes as %s is known again by its content, codes taken out', (form) => {
    const mine = answer.texts.filter(([, f, text]) => f === form && text !== null);
    const wrong = mine.flatMap(([code, , text]) => {
      try {
        const [first] = identify(readPositions(text!.replace(/,?\s*(ID|AUTHORITY)\["EPSG",[^\]]*\]/g, '')));
        // of several systems with one content and one name any is right
        if (first && (first.crs.id === code || (first.confidence >= 70 && sameDefinition(first.crs, lookup(code) as typeof first.crs))))
          return [];
        return [`${code} as ${first ? `${first.crs.id}, ${first.reason}` : 'nothing'}`];
      } catch (error) {
        return [`${code}: ${(error as Error).message}`];
      }
    });
    console.log(`${form}: ${mine.length - wrong.length} of ${mine.length} texts of pyproj identified; not: ${wrong.join('; ')}`);
    expect(wrong.filter((w) => !reason(UNKNOWN, /^EPSG:\d+/.exec(w)![0], form))).toEqual([]);
    expect(wrong.length / mine.length).toBeLessThan(0.01);
  });

  it('what pyproj writes as a PROJ string is the same projection', () => {
    const apart: string[] = [];
    let compared = 0;
    for (const [code, , text] of answer.texts.filter(([, f, t]) => f === 'proj' && t !== null)) {
      const own = lookup(code)!;
      if (own.kind !== 'projected' || !own.area) continue;
      let read: ReturnType<typeof readProjString>;
      try {
        read = readProjString(text!);
      } catch (error) {
        apart.push(`${code}: ${(error as Error).message}`);
        continue;
      }
      if (read.kind !== 'projected') {
        apart.push(`${code}: ${read.kind}`);
        continue;
      }
      compared++;
      const { west, east, south, north } = own.area;
      const width = east >= west ? east - west : east - west + 360;
      const at = [
        [0.2, 0.3],
        [0.5, 0.5],
        [0.8, 0.9],
      ].flatMap(([s, t]) => [west + s! * width - own.base.datum.primeMeridian, south + t! * (north - south)]);
      const p = Float64Array.from(at),
        q = Float64Array.from(at);
      projectorOf(own).forward(p, 0, 3, 2);
      projectorOf(read).forward(q, 0, 3, 2);
      const off = Math.max(...p.map((v, k) => Math.abs(v - q[k]!)));
      // five digits of an axis, and the seven of a false origin in feet, are all that some texts hold
      if (!(off < 2e-2) || Math.abs(own.unit.metres - read.unit.metres) > 1e-9) apart.push(`${code} ${methodOf(own)}: ${off} m`);
    }
    const unexpected = apart.filter((a) => !reason(TO_PROJ, /^EPSG:\d+/.exec(a)![0], 'proj'));
    console.log(`${compared} PROJ strings of pyproj compared, apart: ${apart.join('; ')}`);
    expect(unexpected).toEqual([]);
    expect(compared).toBeGreaterThan(1000);
  });

  it('what is written is read back as it was, by every form', () => {
    const wrong = texts
      .filter(([, form, text]) => text !== null && form !== 'proj')
      .flatMap(([code, form, text]) => {
        const crs = lookup(code)!;
        const back = readDefinition(text!);
        if (crs.kind === 'vertical' || crs.kind === 'compound')
          return back.kind === crs.kind && back.id === crs.id ? [] : [`${code} ${form}`];
        return (back.kind === 'geographic' || back.kind === 'projected') && sameDefinition(back, crs as typeof back)
          ? []
          : [`${code} ${form}`];
      });
    expect(
      wrong.filter((w) => !/^EPSG:(9895|8044|8045) (wkt1|prj)/.test(w) && !reason(UNKNOWN, w.split(' ')[0]!, w.split(' ')[1]!)),
    ).toEqual([]);
  });
});
