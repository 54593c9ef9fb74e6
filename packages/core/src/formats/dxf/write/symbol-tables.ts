import type { WriteContext } from '../../format';
import { BY_LAYER, type BlockSymbol, type LinePattern, symbolKey } from '../../../symbology/library';
import { drawnSymbol } from '../../../symbology/drawn-symbols';
import { markOf, symbolOfMark } from '../../../symbology/marks';
import type { SymbologyCount } from '../../../symbology/style-rules';
import type { Version } from './versions';

/** Symbols, line patterns and applications of all sources under names that do not clash in one drawing. */
export interface SymbolTables {
  blocks: { name: string; symbol: BlockSymbol }[];
  /** Name in the drawing of a source's block; undefined where it has none. */
  blockName(source: string, block: string): string | undefined;
  symbolOf(name: string): BlockSymbol | undefined;
  lines: { name: string; pattern: LinePattern }[];
  hasLine(name: string): boolean;
  /** The line type whose pattern is that of another one times so much, where the version has no scale on objects. */
  scaledLine(name: string, scale: number): string | undefined;
  applications: Set<string>;
  /** Layers that parts of blocks lie on by themselves, with their colours. */
  layers: { name: string; color: string }[];
  /** The name of the block for points that bring none; null where they are not drawn by one. */
  own: string | null;
  /** The name of the block that draws a mark. */
  markName(mark: string): string | undefined;
}

/** Names that a version takes: the old one large letters, digits and few signs. Source: DXF Reference, "Symbol table entries". */
export function validName(name: string, version: Version): string {
  const clean = name.replace(/[<>/\\":;?*|=,`\p{C}]/gu, '_').trim();
  if (version.modern) return clean === '' ? '_' : clean.slice(0, 255);
  return (
    clean === ''
      ? '_'
      : clean
          .normalize('NFKD')
          .replace(/[\u0300-\u036f]/g, '')
          .toUpperCase()
          .replace(/[^A-Z0-9_$-]/g, '_')
  ).slice(0, 31);
}

/** A name that is not taken yet, cut to the length that the version has room for; it is taken afterwards. */
export function uniqueIn(taken: Set<string>, name: string, version: Version): string {
  const most = version.modern ? 255 : 31;
  let unique = name;
  for (let n = 2; taken.has(symbolKey(unique)); n++) unique = `${name.slice(0, most - 5)}_${n}`;
  taken.add(symbolKey(unique));
  return unique;
}

/** @param looks what the records are drawn with */
export function symbolTables({ libraries, options }: WriteContext, looks: readonly SymbologyCount[], version: Version): SymbolTables {
  const blocks: SymbolTables['blocks'] = [];
  const names = new Map<string, string>();
  const taken = new Set<string>();
  const symbols = new Map<string, BlockSymbol>();
  const lines = new Map<string, { name: string; pattern: LinePattern }>();
  const applications = new Set<string>();
  const layers = new Map<string, { name: string; color: string }>();
  for (const { source, library } of libraries) {
    for (const [key, symbol] of library.blocks) {
      // drawn blocks of dimensions and tables belong to their one object
      if (/^\*[dtDT]/.test(symbol.name)) continue;
      const name = uniqueIn(taken, validName(symbol.name.replace(/^\*/, ''), version), version);
      names.set(`${source}\n${key}`, name);
      symbols.set(name, symbol);
      blocks.push({ name, symbol });
      for (const own of new Set(symbol.parts.columns.get('layer') ?? [])) {
        const look = typeof own === 'string' && own !== BY_LAYER ? library.layers.get(symbolKey(own)) : undefined;
        const layer = look && validName(look.name, version);
        if (layer !== undefined && !layers.has(symbolKey(layer))) layers.set(symbolKey(layer), { name: layer, color: look!.color });
      }
    }
    for (const [key, pattern] of library.lines) {
      if (['bylayer', 'byblock', 'continuous'].includes(key) || validName(key, version).toLowerCase() !== key) continue;
      if (!lines.has(key)) lines.set(key, { name: version.modern ? key : key.toUpperCase(), pattern });
    }
    for (const application of library.applications) applications.add(application);
  }
  const scaled = new Map<string, string>();
  for (const {
    values: { linetype, linetype_scale: scale },
  } of version.modern ? [] : looks) {
    const line = typeof linetype === 'string' ? lines.get(symbolKey(linetype)) : undefined;
    if (!line || typeof scale !== 'number' || scale === 1 || scaled.has(`${symbolKey(line.name)} ${scale}`)) continue;
    const name = validName(`${line.name}_X${scale}`, version);
    lines.set(symbolKey(name), { name, pattern: { ...line.pattern, dashes: line.pattern.dashes.map((d) => d * scale) } });
    scaled.set(`${symbolKey(line.name)} ${scale}`, name);
  }
  const marks = new Set(looks.flatMap(({ values }) => (typeof values.marker === 'string' ? (markOf(values.marker) ?? []) : [])));
  const drawn = new Map<string, string>();
  const shelve = (wanted: string): string => {
    const { id, symbol } = drawnSymbol(wanted);
    const known = drawn.get(id);
    if (known !== undefined) return known;
    const name = uniqueIn(taken, validName(id, version), version);
    drawn.set(id, name);
    symbols.set(name, symbol);
    blocks.push({ name, symbol });
    return name;
  };
  const own = options.points === 'block' ? shelve(String(options.symbol)) : null;
  const markNames = new Map([...marks].map((mark) => [mark, shelve(symbolOfMark(mark))]));
  return {
    blocks,
    lines: [...lines.values()],
    applications,
    own,
    layers: [...layers.values()],
    blockName: (source, block) => names.get(`${source}\n${symbolKey(block)}`),
    symbolOf: (name) => symbols.get(name),
    markName: (mark) => markNames.get(mark),
    scaledLine: (name, scale) => scaled.get(`${symbolKey(name)} ${scale}`),
    hasLine: (name) => lines.has(symbolKey(name)),
  };
}
