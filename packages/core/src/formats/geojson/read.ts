import { parse } from 'lossless-json';
import { parseInteger } from '../../model/value';
import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { messageOf, Problem } from '../../model/problem';
import type { OpenSource, SourceFacts } from '../format';
import { WGS84 } from '../globe';
import { NotAGeometry, type Oddity, putGeometry, simpleGeometries } from './geometry';
import { JsonScanner } from './scanner';
import { damagedText } from '../../io/text-decoding';
import { putProperties } from './properties';
import { noDegrees, type Stated, statedSystem } from './stated-system';

const ODDITIES: Record<Oddity, string> = {
  'ring-closed': 'A ring that did not end where it begins was closed.',
  'more-numbers': 'A position had more than three numbers; those after the height stay behind.',
  'no-geometry': 'A feature has no geometry: it is a record without a place.',
};

/** Digits in a row that may be more than a number holds exactly. */
const MANY_DIGITS = /\d{16}/;

/**
 * JSON with every whole number exact to 64 bits, and longer ones as their digits. Source: RFC 8259, section 6 (numbers have no limit of their own).
 * @param long is told of each number that is kept as its digits
 */
function parseJson(json: string, long: () => void): unknown {
  if (!MANY_DIGITS.test(json)) return JSON.parse(json);
  return parse(json, undefined, (digits) => {
    const whole = parseInteger(digits);
    if (whole !== null) return whole;
    // what a number holds is written so, and comes back as it was
    if (!/^-?\d+$/.test(digits) || String(Number(digits)) === digits) return Number(digits);
    long();
    return digits;
  });
}

/** Opens a file of features: a collection, a single one, or one a line. */
export function openGeoJson(source: ByteSource): OpenSource {
  // the system of every file that states none. Source: RFC 7946, section 4
  let stated: Stated = { crs: lookupCrs(WGS84)!, text: WGS84 };
  return {
    facts: (): SourceFacts => ({ crs: stated.crs, crsText: stated.text, unit: null, version: null }),
    read: (findings, watch) => readFeatures(source, findings, watch, (s) => (stated = s)),
  };
}

async function* readFeatures(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  state: (stated: Stated) => void,
): AsyncGenerator<FeatureBatch> {
  const reader = new FeatureReader(source.name, findings);
  const scanner = new JsonScanner(source.name, reader);
  let firstDamaged: number | null = null;
  for await (const chunk of watched(source, watch)) {
    scanner.push(chunk);
    if (scanner.damaged > 0) firstDamaged ??= scanner.count;
    yield* reader.full();
  }
  scanner.end();
  if (scanner.damaged > 0) findings.add(damagedText(source.name, scanner.damaged, `about feature ${firstDamaged}`));
  if (reader.builder.count > 0) yield reader.builder.take();
  state(reader.stated());
}

class FeatureReader {
  readonly builder: BatchBuilder;
  private readonly done: FeatureBatch[] = [];
  private features = 0;
  private crs: unknown = undefined;
  /** What is wrong with the first geometry that is none. */
  private firstBroken: string | null = null;
  private readonly layer: string;
  /** Features with a geometry, and those of them that lie where no degrees are. */
  private readonly lying = { all: 0, beyond: 0 };

  constructor(
    private readonly file: string,
    private readonly findings: Findings,
  ) {
    this.layer = file.replace(/\.[^.]+$/, '');
    this.builder = new BatchBuilder(this.layer);
  }

  *full(): Generator<FeatureBatch> {
    yield* this.done.splice(0);
  }

  feature(json: string): void {
    this.features++;
    this.take(this.parse(json, `feature ${this.features}`));
  }

  text(json: string): void {
    const root = this.parse(json, this.features === 0 ? 'its text' : `text ${this.features + 1}`);
    const { type } = root;
    if (type === 'FeatureCollection') return void this.members(json);
    this.features++;
    if ('crs' in root) this.crs = root.crs;
    if (type === 'Feature') this.take(root);
    else if (typeof type === 'string' && ('coordinates' in root || 'geometries' in root))
      this.take({ type: 'Feature', properties: null, geometry: root });
    else
      throw new Problem(
        'geojson-not',
        `${this.file} is JSON, but no GeoJSON: ${typeof type === 'string' ? `its type is "${type.slice(0, 40)}"` : 'it has no type'}, where FeatureCollection, Feature or a geometry is expected.`,
        { file: this.file },
      );
  }

  members(json: string): void {
    const root = this.parse(json, 'its text around the features');
    if (root.type !== 'FeatureCollection')
      throw new Problem('geojson-not', `${this.file} holds a list of features, but is no GeoJSON: its type is not FeatureCollection.`, {
        file: this.file,
      });
    if ('crs' in root) this.crs = root.crs;
  }

  private parse(json: string, what: string): Record<string, unknown> {
    try {
      return parseJson(json, () => this.long()) as Record<string, unknown>;
    } catch (error) {
      throw new Problem('json-broken', `${this.file}: ${what} cannot be read as JSON (${messageOf(error)}). Export it again.`, {
        file: this.file,
        record: this.features,
      });
    }
  }

  private long(): void {
    this.findings.add({
      code: 'geojson-long-number',
      severity: 'info',
      message: 'A whole number has more digits than 64 bits hold; it is kept as the text of its digits.',
      count: 1,
    });
  }

  private take(feature: Record<string, unknown>): void {
    const { geometry, properties, id } = feature;
    if (feature.type !== 'Feature')
      throw new Problem('geojson-broken', `${this.file}: entry ${this.features} of the features is none: its type is not Feature.`, {
        file: this.file,
        record: this.features,
      });
    let pieces = 0;
    try {
      if (geometry !== null && geometry !== undefined)
        for (const simple of simpleGeometries(geometry)) {
          const from = this.builder.vertices;
          const kind = putGeometry(simple, this.builder, (what) => this.odd(what));
          if (kind === null) continue;
          pieces++;
          this.look(from);
          this.values(properties, id);
          this.builder.endFeature(kind, simple.type, this.features);
        }
      // nothing in it that lies somewhere: an empty geometry, or a collection of none
      if (pieces === 0) this.row(properties, id);
      if (pieces > 1)
        this.findings.add({
          code: 'geojson-collection',
          severity: 'info',
          message: 'A collection of geometries is as many records, each with the data of the feature.',
          count: 1,
        });
    } catch (error) {
      if (!(error instanceof NotAGeometry)) throw error;
      this.builder.abandon();
      this.findings.add({
        code: 'geojson-geometry',
        severity: 'wrong',
        message: (this.firstBroken ??= `A feature has a geometry that is none; the first is feature ${this.features}: ${error.message}.`),
        count: 1,
        location: this.layer,
        ...(pieces === 0 ? { left: true } : {}),
      });
    }
    if (this.builder.full) this.done.push(this.builder.take());
  }

  /** A feature that lies nowhere. */
  private row(properties: unknown, id: unknown): void {
    this.odd('no-geometry');
    this.values(properties, id);
    this.builder.endFeature(NO_GEOMETRY, 'Feature', this.features);
  }

  private look(from: number): void {
    this.lying.all++;
    if (this.builder.someFrom(from, noDegrees)) this.lying.beyond++;
  }

  private values(properties: unknown, id: unknown): void {
    putProperties(this.builder, id, properties, this.findings);
  }

  stated(): Stated {
    return statedSystem(this.crs, this.lying.beyond > this.lying.all / 2, this.file, this.findings);
  }

  private odd(what: Oddity): void {
    this.findings.add({ code: `geojson-${what}`, severity: 'info', message: ODDITIES[what], count: 1 });
  }
}
