import { describe, expect, it } from 'vitest';
import type { CrossingState, RunSummary, SourceState } from '@pontrel/contract/crossing';
import type { Proof } from '@pontrel/core/content/features/proof';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import { entityName, groupNames } from '../src/gather/entity-names';
import { realSize } from '../src/gather/real-size';
import { stagesOf } from '../src/app/stages';
import { checksOf } from '../src/prove/checks';

const layer = (name: string, count: number): SourceState['layers'][number] => ({
  profile: { name, count, extent: [0, 0, 1240, 860], zRange: null, groups: [] },
  plan: { width: 160, height: 100, strokes: [] },
});

const source: SourceState = {
  id: 's1',
  name: 'quay.dxf',
  format: 'dxf',
  formatName: 'DXF drawing',
  bytes: 10,
  replaces: [],
  added: '',
  version: 'R2013',
  unit: { name: 'metre', metres: 1 },
  crs: null,
  crsText: null,
  understood: null,
  doubt: null,
  outliers: 0,
  readings: [],
  reading: null,
  columns: [],
  compared: null,
  derived: null,
  images: null,
  layers: [layer('WATER-MAIN', 330), layer('VALVE', 83)],
  findings: [],
};

const run: RunSummary = {
  id: 'r1',
  pinned: false,
  hasRules: true,
  deliverable: 'd1',
  name: 'Council',
  finished: '',
  current: true,
  bytes: 1,
  files: [],
  status: 'match',
  account: null,
  records: { in: 3, out: 3 },
  maxDeviation_m: 0,
  differences: 0,
  picture: null,
  seconds: 1,
};

const crossing = (change: Partial<CrossingState> = {}): CrossingState => ({
  id: 'c1',
  name: 'Quay',
  revision: 4,
  created: '',
  opened: '',
  pictures: [],
  recipe: EMPTY_RECIPE,
  frame: null,
  tileStamp: '',
  frameExtent: null,
  layerExtents: {},
  sources: [],
  revisions: [],
  runs: [],
  jobs: [],
  ...change,
});

const figures = (c: CrossingState): string[] => stagesOf(c).map((s) => `${s.stage} ${s.state}: ${s.figure}`);

describe('the deck', () => {
  it('says where an empty crossing stands', () => {
    expect(figures(crossing())).toEqual([
      'gather todo: no source yet',
      'place todo: no frame yet',
      'shape todo: nothing to shape',
      'deliver todo: none yet',
      'prove todo: not run',
    ]);
  });

  const placed = crossing({
    sources: [source],
    frame: { id: 'EPSG:2193', label: 'EPSG:2193', name: 'NZTM', kind: 'projected', unit: 'm', unit_m: 1, area: null },
    recipe: {
      ...EMPTY_RECIPE,
      frame: { crs: 'EPSG:2193' },
      sources: { 'quay.dxf': { placement: { crs: 'EPSG:2193', unit_m: null }, layers: { VALVE: { taken: false } } } },
      deliverables: [{ id: 'd1', name: 'Council', format: 'shapefile', crs: 'EPSG:2193', grouping: 'layer' }],
    },
  });

  it('counts what is placed, taken and delivered', () => {
    expect(figures(placed)).toEqual([
      'gather done: 1 source · 2 layers',
      'place done: all placed',
      'shape done: 1 of 2 layers cross',
      'deliver todo: 1 deliverable',
      'prove todo: not run',
    ]);
  });

  it('passes when the proof matches, and warns when rules have changed since', () => {
    expect(figures({ ...placed, runs: [run] }).slice(3)).toEqual(['deliver done: 1 deliverable', 'prove done: match']);
    expect(figures({ ...placed, runs: [{ ...run, current: false }] }).at(-1)).toBe('prove caution: rules changed since');
    expect(figures({ ...placed, runs: [{ ...run, status: 'differs' }] }).at(-1)).toBe('prove caution: differs');
  });

  it('does not count a run of a deliverable that is gone', () => {
    expect(figures({ ...placed, runs: [{ ...run, deliverable: 'gone' }] }).at(-1)).toBe('prove todo: not run');
  });
});

describe('layers', () => {
  it('have their real size, in the unit that suits', () => {
    expect(realSize(source, [0, 0, 1240, 860])).toBe('1.24 × 0.86 km');
    expect(realSize(source, [0, 0, 12.4, 8.6])).toBe('12.40 × 8.60 m');
    expect(realSize({ ...source, unit: { name: 'millimetre', metres: 0.001 } }, [0, 0, 12_400, 8600])).toBe('12.40 × 8.60 m');
    expect(realSize({ ...source, unit: null }, [0, 0, 1.25, 0.5])).toBe('1.25 × 0.5 units');
    expect(realSize(source, null)).toBe('no extent');
  });

  it('name their objects in words, the most numerous first', () => {
    const group = { vertices: 0, curved: 0, chordLoad: 0, heights: false, fields: [] };
    const names = groupNames([
      { ...group, entity: 'ARC', kind: 'line', count: 1 },
      { ...group, entity: 'LWPOLYLINE', kind: 'polygon', count: 9 },
      { ...group, entity: 'INSERT', kind: 'point', count: 3 },
    ]);
    expect(names.map((n) => `${n.count} ${n.name}`)).toEqual(['9 closed polylines', '3 blocks', '1 arc']);
    expect(entityName('HELIX', 2)).toBe('HELIX');
  });
});

describe('the checks of a proof', () => {
  const proof: Proof = {
    status: 'differs',
    records: { in: 942, out: 939 },
    maxDeviation_m: 0.00002,
    tolerance_m: 0.001,
    worst: null,
    histogram: [],
    findings: [],
    sets: [
      {
        name: 'water',
        kind: 'line',
        in: 942,
        out: 939,
        vertices: 10,
        maxDeviation_m: 0,
        maxHeightDeviation_m: 0.0005,
        crs: 'EPSG:2193',
        fields: [{ from: 'STREET', to: 'STREET', same: 324, of: 330 }],
      },
    ],
    differences: [
      { code: 'records', set: 'water', count: 3, expected: false, message: '942 went in and 939 came out.', samples: [] },
      { code: 'value', set: 'water', field: 'STREET', count: 6, expected: true, message: 'cut', samples: [] },
    ],
  };

  it('tell what was forecast from what was not', () => {
    const checks = checksOf(proof);
    expect(checks.map((c) => [c.name, c.tone])).toEqual([
      ['Record counts', 'wrong'],
      ['Positions, vertex by vertex', 'good'],
      ['Heights', 'good'],
      ['Coordinate system', 'good'],
      ['Fields there', 'good'],
      ['Values', 'caution'],
    ]);
    expect(checks[0]!.figure).toBe('939 of 942');
    expect(checks.at(-1)!.figure).toBe('324 of 330');
  });

  it('leave no difference out', () => {
    const codes: Proof['differences'][number]['code'][] = ['records', 'geometry', 'height', 'crs', 'field', 'value', 'unreadable'];
    const all = codes.map((code) => ({ code, set: 'water', count: 1, expected: false, message: code, samples: [] }));
    expect(checksOf({ ...proof, differences: all }).flatMap((c) => c.differences)).toHaveLength(codes.length);
  });
});
