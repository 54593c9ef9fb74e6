import { xmlText } from '../../io/xml';
import { equalValues, shownValue, type Value } from '../../model/value';
import { type Crs, datumOf, isOnEarth, METRES_PER_DEGREE } from '../../crs/crs';
import { sameLength } from '../../placement/ratio';
import { sameSystem } from '../../crs/registry/identify';
import type { ShownPicture, SourceFacts } from '../../formats/format';
import { corners, pixelSize } from '../../raster/pixel-grid';
import { eachPart, type FeatureBatch, partCount, partRanges, POLYGON, NO_GEOMETRY, vertexRange } from '../../model/batch';
import type { Finding } from '../../model/finding';
import type { SymbolLibrary } from '../../symbology/library';
import type { CarriedSymbology } from '../../symbology/carried';
import { styleRulesOf } from '../../symbology/style-rules';
import type { Feed } from './write';
import type { Plan, PlannedField, PlannedSet } from './plan';
import { SymbologyProof } from './prove-symbology';
import type { AccountRow } from '../account';
import type { Announced, Difference, FieldProof, Proof, SetProof } from './proof';
import type { Cursor } from './read-back-cursor';

const SAMPLES = 20;
const LIMITS = [1e-9, 1e-8, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3, 1e-2, 0.1, 1, Infinity];

/** One set while it is compared, with the columns of the two batches at hand. */
export class SetComparison {
  /** Fields that the read-back records have. */
  readonly seen = new Set<string>();
  sourceColumns: (Value[] | undefined)[] = [];
  backColumns: (Value[] | undefined)[] = [];
  looks: SymbologyProof | null = null;
  private source: FeatureBatch | null = null;
  private back: FeatureBatch | null = null;

  constructor(
    readonly proof: SetProof,
    readonly fields: readonly { plan: PlannedField; proof: FieldProof }[],
    /** Whether its vertices have measures in the files. */
    readonly measures: boolean,
  ) {}

  /** Looks the columns up when a batch is another one than before. */
  look(source: FeatureBatch, back: FeatureBatch): void {
    if (source !== this.source) this.sourceColumns = this.fields.map((f) => source.columns.get(f.plan.from));
    if (back !== this.back) this.backColumns = this.fields.map((f) => back.columns.get(f.plan.to));
    this.source = source;
    this.back = back;
  }
}

/** Compares the records that were read back with those of the sources, in step, and keeps what differs. */
export class Comparison {
  failed = false;
  locate: NonNullable<Feed['locate']> = (x, y) => [x, y];
  readonly sets: SetComparison[];
  private readonly differences = new Map<string, Difference>();
  private readonly counts = LIMITS.map(() => 0);
  private worst: Proof['worst'] = null;
  private max = 0;

  /** @param lift_m by which the format raises heights */
  constructor(
    plan: Plan,
    private readonly tolerance_m: number,
    private readonly lift_m: number,
  ) {
    this.sets = plan.sets.map((set) => {
      const fields = set.fields.map((f) => ({ plan: f, proof: { from: f.from, to: f.to, same: 0, of: 0 } }));
      return new SetComparison(
        {
          name: set.name,
          kind: set.kind,
          in: 0,
          out: 0,
          vertices: 0,
          maxDeviation_m: 0,
          maxHeightDeviation_m: 0,
          crs: null,
          fields: fields.map((f) => f.proof),
        },
        fields,
        set.measures,
      );
    });
  }

  differ(d: Difference): void {
    const key = `${d.code}\n${d.set}\n${d.field ?? ''}\n${d.expected}`;
    const known = this.differences.get(key);
    if (!known) {
      this.differences.set(key, d);
      return;
    }
    known.count += d.count;
    if (known.samples.length < SAMPLES) known.samples.push(...d.samples);
  }

  fieldsSeen(sets: readonly number[], batch: FeatureBatch): void {
    for (const s of sets) for (const name of batch.columns.keys()) this.sets[s]!.seen.add(name);
  }

  /** The pictures that files show below their records. */
  checkShown(found: readonly ShownPicture[], wanted: readonly ShownPicture[]): void {
    const wrong = wanted.filter((own) => !found.some((other) => liesThere(other, own))).length + Math.max(0, found.length - wanted.length);
    if (wrong > 0)
      this.differ({
        code: 'picture',
        set: '',
        count: wrong,
        expected: false,
        samples: [],
        message: `The file shows ${found.length} of ${wanted.length} pictures, and ${wrong} of them are not where they should be.`,
      });
  }

  /** The system that a file states, and the fields that its sets were to have. */
  checkFile(sets: readonly number[], { crs, unit }: SourceFacts, target: Crs): void {
    for (const s of sets) {
      const set = this.sets[s]!;
      set.proof.crs = crs?.id ?? crs?.name ?? null;
      // records that lie nowhere need no system, and what has no place on earth may state none
      const stated = crs ? sameSystem(crs, target) : !isOnEarth(target) && (!unit || sameLength(unit.metres, target.unit.metres));
      if (set.proof.vertices > 0 && !stated) {
        this.differ({
          code: 'crs',
          set: set.proof.name,
          count: 1,
          expected: false,
          samples: [],
          message: `The files state ${crs ? `${crs.name}${isOnEarth(crs) ? ` on ${datumOf(crs).name}` : ''}` : unit ? `the unit ${unit.name}` : 'no system'}, not ${target.name}.`,
        });
      }
      for (const { plan } of set.fields) {
        if (!set.seen.has(plan.to) && plan.filled !== 0 && set.proof.in > 0) {
          this.differ({
            code: 'field',
            set: set.proof.name,
            field: plan.to,
            count: 1,
            expected: false,
            samples: [],
            message: `The field ${plan.to} is not in the written file.`,
          });
        }
      }
    }
  }

  record(s: number, placed: FeatureBatch, full: FeatureBatch, i: number, cursor: Cursor, metres: number | null): void {
    const set = this.sets[s]!;
    this.geometry(set, placed, i, cursor, metres);
    const row = cursor.row;
    set.look(full, cursor.batch!);
    for (let f = 0; f < set.fields.length; f++) {
      const { plan, proof } = set.fields[f]!;
      const source = set.sourceColumns[f]?.[i] ?? null;
      const back = set.backColumns[f]?.[row] ?? null;
      if (source === null && back === null) continue;
      proof.of++;
      if (sameValue(source, back)) {
        proof.same++;
        continue;
      }
      const change = plan.changes.find(
        (c) =>
          (c.code === 'text-cut' && isCut(source, back)) ||
          (c.code === 'characters-left' && typeof source === 'string' && xmlText(source) === (back ?? '')) ||
          (c.code === 'rounded' && isRounded(source, back, plan.decimals)) ||
          (c.code === 'as-text' && String(source) === back),
      );
      this.differ({
        code: 'value',
        set: set.proof.name,
        field: plan.to,
        count: 1,
        expected: change !== undefined,
        message: change ? `${plan.from}: ${change.note}.` : `Values of ${plan.from} do not read back as they were.`,
        samples: [{ record: cursor.taken + 1, source: shownValue(source), readBack: shownValue(back), ...this.at(placed, i) }],
      });
    }
  }

  /** What a record is drawn with. */
  drawn(s: number, full: FeatureBatch, i: number, cursor: Cursor, { library, transform }: Pick<Feed, 'library' | 'transform'>): void {
    this.sets[s]!.looks?.record(full, i, library ?? null, transform, cursor.batch!, cursor.row, () => ({
      record: cursor.taken + 1,
      ...this.at(full, i),
    }));
  }

  /** Looks that did not arrive. A style that knows records by fields cannot tell those apart whose fields stayed behind, which the forecast says. */
  checkLooks(plan: PlannedSet, { proof, looks }: SetComparison, held: CarriedSymbology, library: SymbolLibrary | null): void {
    if (!looks) return;
    looks.settle();
    proof.symbology = { same: looks.same, of: looks.of };
    const { missing, categories } = styleRulesOf(plan, () => undefined, 1);
    const said = held.byFields === true && (missing.length > 0 || plan.count > plan.symbology.reduce((n, l) => n + l.count, 0));
    for (const { words, count, source, first } of looks.differences.values()) {
      this.differ({
        code: 'symbology',
        set: proof.name,
        count,
        expected: said,
        message: `Records are drawn without their ${words.join(', ')}.`,
        samples: [{ record: first.record, source: source.color, readBack: null, x: first.x, y: first.y }],
      });
    }
    if (held.byFields !== true || categories.length === 0 || proof.out === 0) return;
    const found = [...(library?.styles.values() ?? [])];
    const { label, scales } = plan.style;
    if (label && !found.some((s) => s.label?.field === label.field))
      this.differ({
        code: 'symbology',
        set: proof.name,
        count: 1,
        expected: false,
        samples: [],
        message: `The file labels nothing by ${label.field}.`,
      });
    if (scales && !found.some((s) => s.scales?.min === scales.min && s.scales?.max === scales.max))
      this.differ({
        code: 'symbology',
        set: proof.name,
        count: 1,
        expected: false,
        samples: [],
        message: 'The file does not say at which scales it is shown.',
      });
  }

  private at(placed: FeatureBatch, i: number): { x: number | null; y: number | null } {
    const [v, end] = vertexRange(placed, i);
    if (v === end) return { x: null, y: null };
    const [x, y] = this.locate(placed.coords[3 * v]!, placed.coords[3 * v + 1]!);
    return { x, y };
  }

  private geometry(set: SetComparison, placed: FeatureBatch, i: number, cursor: Cursor, metres: number | null): void {
    const batch = cursor.batch!;
    if (placed.kinds[i] === NO_GEOMETRY && batch.kinds[cursor.row] === NO_GEOMETRY) return;
    const [s1, e1] = vertexRange(placed, i);
    const [s2, e2] = vertexRange(batch, cursor.row);
    if (e1 - s1 !== e2 - s2) {
      this.differ({
        code: 'geometry',
        set: set.proof.name,
        count: 1,
        expected: false,
        message: 'Records have another number of vertices than they went in with.',
        samples: [{ record: cursor.taken + 1, source: e1 - s1, readBack: e2 - s2, ...this.at(placed, i) }],
      });
      return;
    }
    set.proof.vertices += e1 - s1;
    const polygon = placed.kinds[i] === POLYGON;
    const places = polygon && partCount(placed, i) > 1 ? ringPlaces(placed, i, cursor) : undefined;
    if (places === null) {
      this.differ({
        code: 'geometry',
        set: set.proof.name,
        count: 1,
        expected: false,
        message: 'Records have other parts than they went in with.',
        samples: [{ record: cursor.taken + 1, source: null, readBack: null, ...this.at(placed, i) }],
      });
      return;
    }
    const measured = set.measures && (placed.measures !== undefined || batch.measures !== undefined);
    let measuresOff: { source: number; readBack: number } | null = null;
    let part = 0;
    let next = s2;
    let worst = 0;
    let worstHeight = 0;
    eachPart(placed, i, (start, end) => {
      // a ring may have been turned round to run the way the format wants
      const n = end - start;
      const at = places ? places[part++]! : next;
      next += n;
      const turned = polygon && isTurned(placed.coords, start, cursor.back, at, n);
      for (let k = 0; k < n; k++) {
        const from = start + k,
          to = turned ? at + n - 1 - k : at + k;
        const v = 3 * from,
          w = 3 * to;
        if (measured && measuresOff === null) {
          const source = placed.measures?.[from] ?? NaN,
            readBack = batch.measures?.[to] ?? NaN;
          // no transform touches them, and nothing is rounded
          if (!Object.is(source, readBack) && source !== readBack) measuresOff = { source, readBack };
        }
        const d = this.deviation(placed.coords, v, cursor.back, w, metres);
        if (!(d <= worst)) worst = d;
        const z = placed.coords[v + 2]!;
        const zBack = cursor.back[w + 2]! - this.lift_m;
        const dz = Number.isNaN(z) || z === zBack ? 0 : Number.isNaN(zBack) ? Math.abs(z) : Math.abs(z - zBack);
        if (dz > worstHeight) worstHeight = dz;
      }
    });
    if (!(worst <= set.proof.maxDeviation_m)) set.proof.maxDeviation_m = worst;
    if (worstHeight > set.proof.maxHeightDeviation_m) set.proof.maxHeightDeviation_m = worstHeight;
    if (!(worst <= this.max) || this.worst === null) {
      this.max = worst;
      this.worst = { ...this.at(placed, i), set: set.proof.name, record: cursor.taken + 1 };
    }
    if (measured) set.proof.measured = (set.proof.measured ?? 0) + (e1 - s1);
    if (measuresOff)
      this.differ({
        code: 'measure',
        set: set.proof.name,
        count: 1,
        expected: false,
        message: 'Measures (M) do not read back as they were.',
        samples: [{ record: cursor.taken + 1, ...shownMeasures(measuresOff), ...this.at(placed, i) }],
      });
    if (!(worst <= this.tolerance_m)) this.moved('geometry', set, cursor, placed, i, worst);
    if (!(worstHeight <= this.tolerance_m)) this.moved('height', set, cursor, placed, i, worstHeight);
  }

  private moved(code: 'geometry' | 'height', set: SetComparison, cursor: Cursor, placed: FeatureBatch, i: number, by: number): void {
    this.differ({
      code,
      set: set.proof.name,
      count: 1,
      expected: false,
      message: `Records are more than ${Number((this.tolerance_m * 1000).toPrecision(3))} mm from where they were${code === 'height' ? ' in height' : ''}.`,
      samples: [{ record: cursor.taken + 1, source: null, readBack: by, ...this.at(placed, i) }],
    });
  }

  /** Distance in metres; a degree is taken as on a sphere. */
  private deviation(a: Float64Array, v: number, b: Float64Array, w: number, metres: number | null): number {
    let dx = a[v]! - b[w]!;
    let dy = a[v + 1]! - b[w + 1]!;
    if (metres === null) {
      dy *= METRES_PER_DEGREE;
      dx *= METRES_PER_DEGREE * Math.cos((a[v + 1]! * Math.PI) / 180);
    } else {
      dx *= metres;
      dy *= metres;
    }
    const d = Math.sqrt(dx * dx + dy * dy);
    let k = 0;
    while (k < LIMITS.length - 1 && d > LIMITS[k]!) k++;
    this.counts[k]!++;
    return d;
  }

  /** Records that neither arrived nor stayed behind for a reason, and reasons that nobody was told. */
  checkAccount(rows: readonly AccountRow[], announced: Announced): void {
    for (const { source, layer, left, missing } of rows) {
      if (missing > 0)
        this.differ({
          code: 'account',
          set: layer,
          count: missing,
          expected: false,
          samples: [],
          message: `${missing} of ${layer} in ${source} did not arrive, and nothing says why.`,
        });
      for (const { reason, by, count, message } of left) {
        if (by === 'you' || by === 'rule' || count <= announced(source, layer, reason)) continue;
        this.differ({
          code: 'account',
          set: layer,
          count,
          expected: false,
          samples: [],
          message: `${message} (${layer} in ${source}) stayed behind, which the forecast did not announce.`,
        });
      }
    }
  }

  result(findings: Finding[]): Proof {
    const sets = this.sets.map((s) => s.proof);
    for (const set of sets) {
      if (set.in !== set.out)
        this.differ({
          code: 'records',
          set: set.name,
          count: Math.abs(set.in - set.out),
          expected: false,
          samples: [],
          message: `${set.in} records went in and ${set.out} came out.`,
        });
    }
    const differences = [...this.differences.values()];
    return {
      status: this.failed ? 'failed' : differences.some((d) => !d.expected) ? 'differs' : 'match',
      records: { in: sets.reduce((n, s) => n + s.in, 0), out: sets.reduce((n, s) => n + s.out, 0) },
      maxDeviation_m: this.max,
      tolerance_m: this.tolerance_m,
      worst: this.worst,
      histogram: LIMITS.map((upTo_m, k) => ({ upTo_m: Number.isFinite(upTo_m) ? upTo_m : null, count: this.counts[k]! })).filter(
        (b) => b.count > 0,
      ),
      sets,
      differences,
      findings,
    };
  }
}

/**
 * Where each ring of record `i` begins among the vertices that were read back. Rings may come in another order: each is
 * looked for by its length and its vertices. Null where there is none such.
 */
function ringPlaces(placed: FeatureBatch, i: number, { batch, back, row }: Cursor): number[] | null {
  const wanted = partRanges(placed, i),
    found = partRanges(batch!, row);
  if (wanted.length !== found.length) return null;
  const apart = (v: number, w: number): number =>
    Math.hypot(placed.coords[3 * v]! - back[3 * w]!, placed.coords[3 * v + 1]! - back[3 * w + 1]!);
  // rings may begin at one vertex, and even go on to the same one: all of their vertices tell them apart, run through either way
  const distance = ([s, e]: [number, number], [t, end]: [number, number]): number => {
    let [along, against] = [0, 0];
    for (let v = s; v < e; v++) {
      along = Math.max(along, apart(v, t + v - s));
      against = Math.max(against, apart(v, end - 1 - (v - s)));
    }
    return Math.min(along, against);
  };
  const byLength = new Map<number, [number, number][]>();
  for (const ring of found) {
    const known = byLength.get(ring[1] - ring[0]);
    if (known) known.push(ring);
    else byLength.set(ring[1] - ring[0], [ring]);
  }
  const sorted = new Map(
    [...byLength].map(([n, rings]) => [
      n,
      { rings: rings.sort((a, b) => back[3 * a[0]]! - back[3 * b[0]]!), used: new Uint8Array(rings.length) },
    ]),
  );
  const places: number[] = [];
  for (const ring of wanted) {
    const same = sorted.get(ring[1] - ring[0]);
    const k = same
      ? nearestFree(
          same.rings.length,
          (m) => back[3 * same.rings[m]![0]]!,
          placed.coords[3 * ring[0]]!,
          (m) => same.used[m] === 0,
          (m) => distance(ring, same.rings[m]!),
        )
      : -1;
    if (k < 0) return null;
    same!.used[k] = 1;
    places.push(same!.rings[k]![0]);
  }
  return places;
}

/** The number of the nearest of `n` things that lie sorted by x; -1 where none is free. */
function nearestFree(
  n: number,
  x: (m: number) => number,
  at: number,
  free: (m: number) => boolean,
  distance: (m: number) => number,
): number {
  let low = 0,
    high = n;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (x(middle) < at) low = middle + 1;
    else high = middle;
  }
  let best = -1,
    least = Infinity;
  for (let up = low, down = low - 1; up < n || down >= 0;) {
    const right = up < n ? x(up) - at : Infinity,
      left = down >= 0 ? at - x(down) : Infinity;
    if (Math.min(right, left) > least) break;
    const m = right <= left ? up++ : down--;
    const d = free(m) ? distance(m) : Infinity;
    if (d < least) [best, least] = [m, d];
  }
  return best;
}

const shownMeasures = ({ source, readBack }: { source: number; readBack: number }): { source: number | null; readBack: number | null } => ({
  source: Number.isNaN(source) ? null : source,
  readBack: Number.isNaN(readBack) ? null : readBack,
});

/**
 * Whether a ring runs the other way round than it did, as its second vertex tells. The sign of its area would not where that is nought or
 * nearly so, as of a ring that crosses itself.
 */
function isTurned(source: Float64Array, start: number, back: Float64Array, at: number, n: number): boolean {
  const [x, y] = [source[3 * (start + 1)]!, source[3 * (start + 1) + 1]!];
  const apart = (k: number): number => Math.hypot(x - back[3 * (at + k)]!, y - back[3 * (at + k) + 1]!);
  return n > 2 && apart(n - 2) < apart(1);
}

/** Blanks at the end of a text are padding in a table of fixed widths. */
function sameValue(source: Value, back: Value): boolean {
  if (equalValues(source, back)) return true;
  // no bytes are nothing to formats that write values as text
  if (source instanceof Uint8Array) return source.length === 0 && back === null;
  if (typeof source === 'string') {
    const trimmed = source.replace(/ +$/, '');
    return back === trimmed || back === source.trimEnd() || (source.trim() === '' && back === null);
  }
  return false;
}

function isCut(source: Value, back: Value): boolean {
  return typeof source === 'string' && typeof back === 'string' && back.length < source.length && source.startsWith(back);
}

function isRounded(source: Value, back: Value, decimals: number): boolean {
  return typeof source === 'number' && typeof back === 'number' && Math.abs(source - back) <= 0.5000001 * 10 ** -decimals;
}

/** Pixels by which the corners of a picture may lie off. */
const MOST_CORNER_PX = 0.01;

/** Whether a picture is the one that it should be, of the same size and in the same place. */
function liesThere(found: ShownPicture, wanted: ShownPicture): boolean {
  if (found.file !== wanted.file || found.width !== wanted.width || found.height !== wanted.height) return false;
  const [a, b] = [corners(found), corners(wanted)];
  const most = MOST_CORNER_PX * Math.min(...pixelSize(wanted));
  return a.every((v, k) => Math.abs(v - b[k]!) <= most);
}
