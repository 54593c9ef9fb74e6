import type { Value } from '../../model/value';
import { SYMBOLOGY_FIELDS } from '../../model/symbology-fields';
import { type StatedSymbology, type FeatureBatch, type Kind, KINDS, NO_GEOMETRY } from '../../model/batch';
import { type SymbolLibrary, symbolKey } from '../../symbology/library';
import { type CarriedSymbology, carriedPart, missingParts } from '../../symbology/carried';
import { lengthUnit } from '../../symbology/sizes';
import { markOf } from '../../symbology/marks';
import { type Symbolizer, symbologyKey, symbolizerOf, saysSomething } from '../../symbology/symbolizer';
import type { SourceTransform } from './transform-batch';

/** A look that went in, and what its records are drawn with in the file. */
interface Pair {
  kind: Kind;
  source: StatedSymbology;
  back: StatedSymbology | null;
  library: SymbolLibrary | null;
  unit_m: number;
  count: number;
  first: SymbologySample;
}

/** A record that is drawn in another way than it should be; where it lies is in the frame, null where it has no place there. */
export interface SymbologySample {
  record: number;
  x: number | null;
  y: number | null;
}

/** Records that are drawn otherwise than they were to be: what of their looks is missing. */
export interface SymbologyDifference {
  words: string[];
  count: number;
  source: Symbolizer;
  first: SymbologySample;
}

/** Pairs that are kept before they are looked at: looks are few, but a file may have one a record. */
const MOST_PAIRS = 10_000;

/** Compares what the records of a set are drawn with, there and here. Alike pairs are looked at once, when line patterns of the file are known. */
export class SymbologyProof {
  /** Records whose looks the target can hold in some part, and those that have them. */
  of = 0;
  same = 0;
  readonly differences = new Map<string, SymbologyDifference>();
  private readonly pairs = new Map<string, Pair>();
  private readonly keys = new WeakMap<StatedSymbology, string>();
  /** The columns that say something of looks in the batch at hand, and the pair of the record before. */
  private batch: FeatureBatch | null = null;
  private columns: Value[][] = [];
  private last: { pair: Pair; i: number; drawn: StatedSymbology | null } | null = null;

  /** @param library what the file draws with, as far as it was read @param unit_m metres in one unit of the file's coordinates */
  constructor(
    private readonly held: CarriedSymbology,
    private readonly library: () => SymbolLibrary | null,
    private readonly unit_m: number,
  ) {}

  /** @param source the record as it went in, in the unit and with the library of the source that is carried */
  record(
    source: FeatureBatch,
    i: number,
    library: SymbolLibrary | null,
    transform: SourceTransform,
    back: FeatureBatch,
    row: number,
    sample: () => SymbologySample,
  ): void {
    if (source.kinds[i] === NO_GEOMETRY) return;
    if (source !== this.batch) {
      this.batch = source;
      this.columns = SYMBOLOGY_FIELDS.flatMap((f) => (source.columns.has(f) ? [source.columns.get(f)!] : []));
      this.last = null;
    }
    const drawn = back.symbology?.[row] ?? null;
    // most records are drawn as the one before is, which needs no key to be told
    if (this.last !== null && this.last.drawn === drawn && this.isAlike(source, this.last.i, i)) {
      this.last.pair.count++;
      return;
    }
    const told = symbologyKey(source, i);
    if (told === null) return;
    const key = `${transform.source}\n${told}\n${drawn ? this.keyOf(drawn) : ''}`;
    const known = this.pairs.get(key);
    if (known) {
      known.count++;
      this.last = { pair: known, i, drawn };
      return;
    }
    if (this.pairs.size >= MOST_PAIRS) this.settle();
    const values = Object.fromEntries(
      SYMBOLOGY_FIELDS.flatMap((f): [string, Value][] => {
        const v = source.columns.get(f)?.[i] ?? null;
        return v === null ? [] : [[f, v]];
      }),
    );
    const pair: Pair = {
      kind: KINDS[source.kinds[i]!]!,
      source: values,
      back: drawn,
      library,
      unit_m: lengthUnit(transform.crs, transform.unit_m),
      count: 1,
      first: sample(),
    };
    this.pairs.set(key, pair);
    this.last = { pair, i, drawn };
  }

  private isAlike({ kinds }: FeatureBatch, a: number, b: number): boolean {
    if (kinds[a] !== kinds[b]) return false;
    for (const column of this.columns) if (column[a] !== column[b]) return false;
    return true;
  }

  /** Records that are drawn alike often have one object for it together. */
  private keyOf(drawn: StatedSymbology): string {
    let key = this.keys.get(drawn);
    if (key === undefined) this.keys.set(drawn, (key = SYMBOLOGY_FIELDS.map((field) => String(drawn[field] ?? null)).join('\n')));
    return key;
  }

  /** Looks at the pairs that came so far. */
  settle(): void {
    const there = this.library();
    for (const { kind, source, back, library, unit_m, count, first } of this.pairs.values()) {
      const wanted = carriedPart(
        symbolizerOf(
          kind,
          (f) => source[f] ?? null,
          (name) => library?.lines.get(symbolKey(name)),
          unit_m,
        ),
        this.held,
      ).look;
      // a name without a drawing draws nothing there either
      if (wanted.marker !== null && markOf(wanted.marker) === null && !library?.blocks.has(symbolKey(wanted.marker))) wanted.marker = null;
      if (!saysSomething(wanted)) continue;
      this.of += count;
      const found = symbolizerOf(
        kind,
        (f) => back?.[f] ?? null,
        (name) => there?.lines.get(symbolKey(name)),
        this.unit_m,
      );
      // a block may have another name in a drawing; that is compared as a field
      if (this.held.marker === 'any' && found.marker !== null) found.marker = wanted.marker;
      const words = missingParts(wanted, found);
      if (words.length === 0) {
        this.same += count;
        continue;
      }
      const known = this.differences.get(words.join());
      if (known) known.count += count;
      else this.differences.set(words.join(), { words, count, source: wanted, first });
    }
    this.pairs.clear();
    this.last = null;
  }
}
