import type { ByteSource } from '../../io/bytes';
import type { Finding } from '../../model/finding';
import { DRAWN_SYMBOLS } from '../../symbology/drawn-symbols';
import type { FeatureFormat, OpenSource, SourceFacts, TargetSet } from '../format';
import { prjBeside } from '../prj';
import { type DrawingFacts, readDxf, type ReadOptions, refuseOtherKinds } from './read';
import { LABEL_PLACES } from './write/labels';
import { MOST_XDATA } from './write/records';
import { WRITTEN } from './write/versions';
import { nearestWeight, seenColor, seenTransparency } from './write/symbology';
import { drawingUnitOf } from './write/geo-data';
import { createDrawing, versionOf } from './write/writer';
import type { Symbolizer } from '../../symbology/symbolizer';
import { statedBy } from './geo-location';
import { DRAWING_UNITS } from './units';
import { VERSIONS } from './header';

/** Drawing exchange format, ASCII and binary. Source: DXF Reference, as published for R12 to R2018. */
export const dxf: FeatureFormat = {
  id: 'dxf',
  name: 'DXF drawing',
  extensions: ['.dxf', '.dwg'], // a DWG is taken in only to be told what to do instead
  companions: ['.prj'],
  sniff(head) {
    const text = new TextDecoder('latin1').decode(head.subarray(0, 512));
    return (
      /^(\xef\xbb\xbf)?\s*(999\s*\r?\n[^\n]*\n\s*)*0\s*\r?\n\s*SECTION/.test(text) || /^AC1\d{3}/.test(text) || /^\S+ Binary DXF/.test(text)
    );
  },
  refuse: refuseOtherKinds,
  features: {
    counts: 'line',
    // a handle stays with its object. Source: the DXF reference, group 5
    key: 'handle',
    carries: {
      kinds: { point: 'point', line: 'line', polygon: 'polygon', text: 'text', none: null },
      oneKindPerSet: false,
      oneFile: true,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: true,
      setNames: { maxBytes: 255, caseMatters: false, valid: /[^<>/\\":;?*|=,`\p{C}]/u, replacement: '_' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      text: { maxBytes: 8000 },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'bytes'],
      typesByValue: true,
      fieldsByRecord: true,
      maxBytes: Infinity,
      recordBytes: MOST_XDATA,
    },
    open: (source) => openDrawing(source),
    write: {
      options: [
        { id: 'version', label: 'Version', kind: 'choice', choices: WRITTEN.map((v) => ({ value: v.id, label: v.id })) },
        {
          id: 'areas',
          label: 'Areas',
          kind: 'choice',
          choices: [
            { value: 'as drawn', label: 'As they were' },
            { value: 'outline', label: 'Outlines' },
            { value: 'fill', label: 'Fills' },
            { value: 'both', label: 'Outlines and fills' },
            { value: 'faces', label: 'Triangles as 3D faces' },
          ],
        },
        {
          id: 'points',
          label: 'Other points',
          kind: 'choice',
          choices: [
            { value: 'point', label: 'As points' },
            { value: 'block', label: 'As a symbol' },
            { value: 'text', label: 'As their label' },
          ],
        },
        {
          id: 'symbol',
          label: 'Symbol',
          when: (v) => v.points === 'block',
          kind: 'choice',
          choices: DRAWN_SYMBOLS.map((s) => ({ value: s.id, label: s.label })),
        },
        { id: 'symbol_size', label: 'Symbol size', when: (v) => v.points === 'block', kind: 'length', initial_m: 1 },
        {
          id: 'data',
          label: 'Data of blocks',
          kind: 'choice',
          choices: [
            { value: 'behind', label: 'Behind the object' },
            { value: 'attributes', label: 'As hidden attributes too' },
          ],
        },
        { id: 'label', label: 'Label', kind: 'text', asks: 'template', hint: 'such as {NAME}\\n{area:.1} m²' },
        { id: 'label_height', label: 'Lettering', kind: 'length', initial_m: 1 },
        {
          id: 'label_place',
          label: 'Label stands',
          when: (v) => v.label !== '',
          kind: 'choice',
          choices: LABEL_PLACES.map(({ value, label }) => ({ value, label })),
        },
        { id: 'label_gap', label: 'Off by', when: (v) => v.label !== '', kind: 'length', initial_m: 0.3 },
        { id: 'label_angle', label: 'Turned by field', when: (v) => v.label !== '', kind: 'text', asks: 'field', hint: 'none' },
        { id: 'label_color', label: 'Label colour', when: (v) => v.label !== '', kind: 'text', asks: 'color', hint: '#rrggbb' },
      ],
      files: (sets, { stem, options }) => [
        { name: `${stem}.dxf`, bytes: DOCUMENT_BYTES + sets.reduce((n, set) => n + drawnBytes(set), 0), sets: sets.map((_, k) => k) },
        ...(versionOf(options).located ? [] : [{ name: `${stem}.prj`, bytes: 420, sets: [] }]),
      ],
      symbology: (options) => ({
        color: true,
        fill: false,
        opacity: versionOf(options).trueColor,
        width: versionOf(options).modern,
        ground: false,
        dash: true,
        marker: 'any',
        size: false,
        label: true,
        scales: false,
        rounded: roundedBy(versionOf(options)),
        how: versionOf(options).trueColor ? 'as the drawing’s own' : 'as the nearest of 255 colours',
      }),
      showsPictures: (options) => versionOf(options).modern,
      create: createDrawing,
      async readBack(folder, sets, { stem }) {
        return [
          { open: await openDrawing(await folder.open(`${stem}.dxf`), { oneLayer: stem, recordsOnly: true }), sets: sets.map((_, k) => k) },
        ];
      },
      crsFindings(crs, options) {
        const version = versionOf(options);
        const findings: Finding[] = [];
        if (!version.located)
          findings.push({
            code: 'dxf-crs-beside',
            severity: 'info',
            message: `A drawing of ${version.id} cannot state its coordinate system: ${crs.name} goes beside it in a .prj file.`,
            count: 1,
          });
        if (crs.kind === 'local' && version.located && drawingUnitOf(crs) === 0)
          findings.push({
            code: 'dxf-unit-unnamed',
            severity: 'caution',
            message: `A drawing has no name for ${crs.unit.name}: its numbers are written as they are, without a unit.`,
            count: 1,
          });
        if (crs.kind === 'geographic')
          findings.push({
            code: 'dxf-degrees',
            severity: 'caution',
            message: `${crs.name} counts in degrees: a drawing in degrees has no true lengths or angles. Choose a projected system if it is to be drawn on.`,
            count: 1,
          });
        return findings;
      },
    },
  },
};

/** Bytes of a drawing around its objects, and of an object around its vertices: measured, roughly. */
const DOCUMENT_BYTES = 12_000,
  OBJECT_BYTES = 220,
  VERTEX_BYTES = 46,
  FIELD_BYTES = 40;

function drawnBytes(set: TargetSet): number {
  return (
    set.count * (OBJECT_BYTES + set.fields.reduce((n, f) => n + FIELD_BYTES + f.to.length + f.width / 2, 0)) + VERTEX_BYTES * set.vertices
  );
}

/** Looks as a drawing of a version has them. */
const roundedBy =
  ({ trueColor }: ReturnType<typeof versionOf>) =>
  (look: Symbolizer): Symbolizer => ({
    ...look,
    color: look.color && seenColor(look.color, trueColor),
    fill: look.fill && seenColor(look.fill, trueColor),
    width_mm: look.width_mm && nearestWeight(look.width_mm) / 100,
    opacity: look.opacity && 1 - seenTransparency(1 - look.opacity),
  });

/** What its geographic location object says, or a .prj file beside it. */
async function openDrawing(source: ByteSource, options: ReadOptions = {}): Promise<OpenSource> {
  const prj = await prjBeside(source);
  let facts: DrawingFacts | null = null;
  return {
    async *read(findings, watch) {
      if (prj.error !== null) findings.add({ code: 'dxf-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      yield* readDxf(source, findings, watch, { ...options, facts: (f) => (facts = f) });
    },
    library: () => facts?.library ?? null,
    facts: (): SourceFacts => ({
      ...(facts?.geo ? statedBy(facts.geo) : { crs: prj.crs, crsText: prj.text }),
      unit: facts ? (DRAWING_UNITS[facts.header.units] ?? null) : null,
      ...(facts && facts.externals.length > 0 ? { externals: facts.externals } : {}),
      ...(facts && facts.pictures.length > 0 ? { pictures: facts.pictures } : {}),
      version: facts ? (VERSIONS[facts.header.version] ?? facts.header.version) : null,
    }),
  };
}
