import type { Value } from '../../model/value';
import type { ByteSink, ByteSource } from '../../io/bytes';
import { eachPart, type FeatureBatch, KINDS, POINT, TEXT, sliceOf } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import {
  type BlockAttribute,
  type BlockSymbol,
  emptyLibrary,
  type LinePattern,
  type SymbolLibrary,
  symbolKey,
} from '../../symbology/library';
import type { TargetSet, WriteContext } from '../format';

/**
 * What a table of a shapefile cannot hold, in a file beside it, one JSON value a line: long field names, the layer and kind of
 * each run of records, texts that were cut, and the symbols and line patterns that the records are drawn with. A program that
 * does not know it loses nothing of the shapefile itself.
 */
export const SIDECAR = '.sidecar';
const VERSION = 1;
/** Larger ones are damaged, or no help. */
const MOST_BYTES = 256 * 1024 ** 2;

type Line =
  | { sidecar: number; records: number; fields: Record<string, string>; measures?: true }
  /** From a record, by number from 1, up to the next run. */
  | { from: number; layer: string; kind: 'text' | null }
  | { record: number; field: string; value: string }
  | { line: string; description: string; dashes: number[] }
  | { block: string; base: [number, number, number]; attributes: BlockAttribute[]; parts: Part[] }
  | { applications: string[] };

interface Part {
  kind: number;
  entity: string;
  /** x, y, z, bulge of each vertex, a list a part. */
  at: number[][];
  values: Record<string, Value>;
}

/** Gathers what goes into the sidecar of one set while its records are written. */
export class SidecarWriter {
  private readonly lines: Line[] = [];
  private records = 0;
  private run = '';
  private readonly blocks = new Map<string, BlockSymbol>();
  private readonly patterns = new Map<string, LinePattern>();
  private readonly cut: TargetSet['fields'];

  constructor(
    private readonly sink: ByteSink,
    private readonly set: TargetSet,
    private readonly context: WriteContext,
  ) {
    this.cut = set.fields.filter((f) => f.type === 'text' && f.cut);
  }

  append(batch: FeatureBatch, rows: Uint32Array, n: number, source: string): void {
    const library = this.context.libraries.find((l) => l.source === source)?.library;
    const blocks = library && batch.columns.get('block'),
      lines = library && batch.columns.get('linetype');
    for (let k = 0; k < n; k++) {
      const i = rows[k]!;
      const kind = batch.kinds[i] === TEXT ? 'text' : null;
      const run = `${batch.layer}\n${kind}`;
      this.records++;
      if (run !== this.run) this.lines.push({ from: this.records, layer: batch.layer, kind });
      this.run = run;
      for (const field of this.cut) {
        const value = batch.columns.get(field.from)?.[i];
        if (typeof value === 'string' && value.length * 4 > field.width && new TextEncoder().encode(value).length > field.width)
          this.lines.push({ record: this.records, field: field.from, value });
      }
      keep(this.blocks, library?.blocks, blocks?.[i]);
      keep(this.patterns, library?.lines, lines?.[i]);
    }
  }

  async close(): Promise<void> {
    const head: Line = {
      sidecar: VERSION,
      records: this.records,
      fields: Object.fromEntries(this.set.fields.filter((f) => f.to !== f.from).map((f) => [f.to, f.from])),
      ...(this.set.measures ? { measures: true } : {}),
    };
    const applications = [...new Set(this.context.libraries.flatMap((l) => [...l.library.applications]))];
    const all: Line[] = [
      head,
      ...this.lines,
      ...[...this.patterns].map(([line, p]): Line => ({ line, ...p })),
      ...[...this.blocks.values()].map(blockLine),
      ...(applications.length > 0 ? [{ applications }] : []),
    ];
    const encoder = new TextEncoder();
    for (const line of all) await this.sink.write(encoder.encode(`${JSON.stringify(line)}\n`));
    await this.sink.close();
  }
}

function keep<T>(kept: Map<string, T>, known: Map<string, T> | undefined, name: Value | undefined): void {
  if (typeof name !== 'string' || !known) return;
  const key = symbolKey(name);
  const found = kept.has(key) ? undefined : known.get(key);
  if (found) kept.set(key, found);
}

function blockLine(symbol: BlockSymbol): Line {
  const { parts } = symbol;
  const out: Part[] = [];
  for (let i = 0; i < parts.count; i++) {
    const at: number[][] = [];
    eachPart(parts, i, (s, e) =>
      at.push(
        Array.from({ length: e - s }, (_, k) => [
          ...parts.coords.subarray(3 * (s + k), 3 * (s + k) + 3),
          parts.bulges?.[s + k] ?? 0,
        ]).flat(),
      ),
    );
    out.push({
      kind: parts.kinds[i]!,
      entity: parts.entities[i]!,
      at,
      values: Object.fromEntries([...parts.columns].filter(([, c]) => c[i] !== null).map(([name, c]) => [name, c[i]!])),
    });
  }
  return { block: symbol.name, base: symbol.base, attributes: symbol.attributes, parts: out };
}

function symbolOf(line: Extract<Line, { block: string }>): BlockSymbol {
  const out = new BatchBuilder(line.block);
  for (const part of line.parts) {
    for (const at of part.at) {
      for (let k = 0; k + 3 < at.length; k += 4) out.vertex(at[k]!, at[k + 1]!, at[k + 2]!, at[k + 3]);
      out.endPart();
    }
    for (const [name, value] of Object.entries(part.values)) out.set(name, value);
    out.endFeature(part.kind, part.entity, 0);
  }
  return { name: line.block, base: line.base, attributes: line.attributes, parts: out.take() };
}

/** What the file says that is written beside a shapefile for whoever reads it back. */
export interface Sidecar {
  records: number;
  /** Whether the shapes were written with measures, so that noughts are some. */
  measures: boolean;
  /** Names in the table to the names that they stand for. */
  fields: Map<string, string>;
  runs: { from: number; layer: string; kind: 'text' | null }[];
  texts: Map<number, [string, string][]>;
  library: SymbolLibrary;
}

/** @returns null when there is none; a sentence when what stands there is none */
export async function readSidecar(source: ByteSource | null): Promise<Sidecar | string | null> {
  if (!source) return null;
  if (source.size > MOST_BYTES) return `${source.name} is larger than a sidecar may be`;
  try {
    const lines = new TextDecoder('utf-8', { fatal: true })
      .decode(await source.read(0, source.size))
      .split('\n')
      .filter((l) => l !== '')
      .map((l) => JSON.parse(l) as Line);
    const head = lines[0];
    if (!head || !('sidecar' in head) || head.sidecar !== VERSION) return `${source.name} is no sidecar of this kind`;
    const out: Sidecar = {
      records: head.records,
      measures: head.measures === true,
      fields: new Map(Object.entries(head.fields)),
      runs: [],
      texts: new Map(),
      library: emptyLibrary(),
    };
    for (const line of lines.slice(1)) {
      if ('from' in line) out.runs.push(line);
      else if ('record' in line) out.texts.set(line.record, [...(out.texts.get(line.record) ?? []), [line.field, line.value]]);
      else if ('line' in line) out.library.lines.set(line.line, { description: line.description, dashes: line.dashes });
      else if ('block' in line) out.library.blocks.set(symbolKey(line.block), symbolOf(line));
      else if ('applications' in line) for (const name of line.applications) out.library.applications.add(name);
    }
    return out;
  } catch {
    return `${source.name} is damaged`;
  }
}

/** The records of a batch under their long names, of the layers and kinds that they had. */
export function* withSidecar(batch: FeatureBatch, sidecar: Sidecar): Generator<FeatureBatch> {
  const columns = new Map([...batch.columns].map(([name, column]) => [sidecar.fields.get(name) ?? name, column]));
  for (let i = 0; i < batch.count; i++) {
    for (const [field, value] of sidecar.texts.get(batch.locations[i]!) ?? []) {
      const column = columns.get(field);
      if (column) column[i] = value;
    }
  }
  const declared = batch.declared && new Map([...batch.declared].map(([name, d]) => [sidecar.fields.get(name) ?? name, d]));
  let start = 0;
  while (start < batch.count) {
    const place = batch.locations[start]!;
    const r = sidecar.runs.findLastIndex((run) => run.from <= place);
    const run = sidecar.runs[r],
      next = sidecar.runs[r + 1]?.from ?? Infinity;
    let end = start + 1;
    while (end < batch.count && batch.locations[end]! < next) end++;
    const piece = sliceOf({ ...batch, columns, declared, layer: run?.layer ?? batch.layer }, start, end);
    if (run?.kind === 'text') for (let i = 0; i < piece.count; i++) if (piece.kinds[i] === POINT) piece.kinds[i] = KINDS.indexOf('text');
    yield piece;
    start = end;
  }
}
