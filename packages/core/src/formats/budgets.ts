import type { ByteSource } from '../io/bytes';
import type { FeatureBatch } from '../model/batch';
import type { Declarations } from '../model/field';
import { Findings } from '../model/finding';
import { FreeNames } from '../model/free-names';
import { Problem } from '../model/problem';
import type { Value } from '../model/value';
import type { FeatureFormat, OpenSource } from './format';
import { withoutShortRings } from './short-rings';

/** Different fields of one layer; more are the mark of names made of data. A container's table has 2,000 at most, a drawing some hundred. */
const MOST_FIELDS = 5000;
/** Letters of the name of a field or a layer. */
const LONGEST_NAME = 500;
/** Letters or bytes of one value. */
const LONGEST_VALUE = 1 << 26;
/** Letters of all values of a file, and how many there may be to each of its bytes: packed tables have ten or twenty. */
const MOST_LETTERS = 1 << 28;
const LETTERS_A_BYTE = 100;
/** Letters of a finding, which may quote from the file. */
const LONGEST_MESSAGE = 600;

const shortened = (text: string, most: number): string => (text.length <= most ? text : `${text.slice(0, most - 1)}…`);

/** A format whose files are read within limits that no sound file comes near, so that none can take all memory or time by its names. */
export const withBudgets = (format: FeatureFormat): FeatureFormat => ({
  ...format,
  features: {
    ...format.features,
    open: async (source, reading) => withinLimits(source, await format.features.open(source, reading)),
  },
});

function withinLimits(source: ByteSource, open: OpenSource): OpenSource {
  return {
    ...open,
    async *read(findings, watch) {
      const names = new Bounds(findings, source);
      const found = new Findings();
      try {
        for await (const batch of open.read(found, watch)) yield withoutShortRings(names.within(batch), found);
      } finally {
        for (const f of found.list())
          findings.add({
            ...f,
            message: shortened(f.message, LONGEST_MESSAGE),
            ...(f.location === undefined ? {} : { location: names.layer(f.location) }),
          });
      }
    },
  };
}

/** The fields of a layer: what each of them is called from here on, and which short names are taken. */
interface Fields {
  names: Map<string, string>;
  free: FreeNames;
}

/** Keeps the names and values of a file within the limits, and tells of what is not. */
class Bounds {
  private readonly layers = new Map<string, string>();
  private readonly layerNames = new FreeNames();
  private readonly fields = new Map<string, Fields>();
  private letters = 0;

  constructor(
    private readonly findings: Findings,
    private readonly source: ByteSource,
  ) {}

  within(batch: FeatureBatch): FeatureBatch {
    const layer = this.layer(batch.layer);
    let known = this.fields.get(layer);
    if (!known) this.fields.set(layer, (known = { names: new Map(), free: new FreeNames() }));
    let columns: Map<string, Value[]> | null = null;
    let k = 0;
    for (const [name, column] of batch.columns) {
      const kept = this.field(name, known);
      this.lookThrough(name, column, layer);
      if (kept !== name && columns === null) columns = new Map([...batch.columns].slice(0, k));
      if (kept === null) this.tooMany(column, layer);
      else columns?.set(kept, column);
      k++;
    }
    if (layer === batch.layer && columns === null) return batch;
    const { declared } = batch;
    return { ...batch, layer, columns: columns ?? batch.columns, ...(declared ? { declared: this.declared(declared, known) } : {}) };
  }

  private lookThrough(name: string, column: Value[], layer: string): void {
    for (let i = 0; i < column.length; i++) {
      const value = column[i]!;
      if (typeof value === 'number' && !Number.isFinite(value)) {
        column[i] = null;
        this.findings.add({
          code: 'number-unreadable',
          severity: 'caution',
          message: `Values of ${shortened(name, 40)} are no numbers, though they are said to be, or are too large to be held: they are left empty.`,
          count: 1,
          location: layer,
        });
        continue;
      }
      if (typeof value !== 'string' && !(value instanceof Uint8Array)) continue;
      this.letters += value.length;
      if (value.length <= LONGEST_VALUE) continue;
      column[i] = null;
      this.findings.add({
        code: 'value-too-long',
        severity: 'wrong',
        message: `Values of ${shortened(name, 40)} are longer than ${LONGEST_VALUE / 1024 / 1024} million letters or bytes, which is not read: they are left empty.`,
        count: 1,
        location: layer,
      });
    }
    if (this.letters > MOST_LETTERS && this.letters > LETTERS_A_BYTE * this.source.size)
      throw new Problem(
        'file-swells',
        `${this.source.name} has ${Math.round(this.source.size / 1024)} kB and its values more than ${MOST_LETTERS / 1024 / 1024} million letters: the same long text stands in very many records. Export it without that field.`,
        { file: this.source.name },
      );
  }

  private declared(declared: Declarations, known: Fields): Declarations {
    return new Map(
      [...declared].flatMap(([name, declaration]) => {
        const kept = this.field(name, known);
        return kept === null ? [] : [[kept, declaration] as const];
      }),
    );
  }

  layer(name: string): string {
    if (name.length <= LONGEST_NAME) return name;
    let short = this.layers.get(name);
    if (short === undefined) this.layers.set(name, (short = this.shortName(name, this.layerNames)));
    return short;
  }

  /** The name that a field goes by; null for one too many. */
  private field(name: string, { names, free }: Fields): string | null {
    const before = names.get(name);
    if (before !== undefined) return before;
    // of names beyond the limit none is remembered, or they would take the memory that they are not to have
    if (names.size >= MOST_FIELDS) return null;
    const kept = name.length <= LONGEST_NAME ? name : this.shortName(name, free);
    names.set(name, kept);
    return kept;
  }

  private shortName(name: string, free: FreeNames): string {
    this.findings.add({
      code: 'name-too-long',
      severity: 'caution',
      message: `Names of layers or fields of more than ${LONGEST_NAME} letters are cut to as many, and numbered where they are then the same.`,
      count: 1,
    });
    return free.take(name.slice(0, LONGEST_NAME));
  }

  private tooMany(column: readonly Value[], layer: string): void {
    const count = column.reduce((n: number, v) => n + (v === null ? 0 : 1), 0);
    if (count > 0)
      this.findings.add({
        code: 'fields-too-many',
        severity: 'wrong',
        message: `The layer has more than ${MOST_FIELDS} different fields: the values of those that come after them are left out. Export it with the data as values, not as names.`,
        count,
        location: layer,
      });
  }
}
