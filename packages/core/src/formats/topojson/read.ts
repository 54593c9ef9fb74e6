import type { ByteSource, Watch } from '../../io/bytes';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { messageOf, Problem } from '../../model/problem';
import { lookupCrs } from '../../crs/registry/registry';
import type { OpenSource, SourceFacts } from '../format';
import { NotAGeometry, putGeometry } from '../geojson/geometry';
import { putProperties } from '../geojson/properties';
import { noDegrees, type Stated, statedSystem } from '../geojson/stated-system';
import { WGS84 } from '../globe';
import { type Arcs, coordinatesOf, decodeArcs, type Topology } from './arcs';

/** Lines are shared between records from one end of a topology to the other, so it is held as a whole; larger ones are refused. */
const MOST_BYTES = 256 * 1024 ** 2;

/** Opens a topology: its objects are layers, the arcs that they share are put together. */
export function openTopoJson(source: ByteSource): OpenSource {
  let stated: Stated = { crs: lookupCrs(WGS84)!, text: WGS84 };
  return {
    facts: (): SourceFacts => ({ crs: stated.crs, crsText: stated.text, unit: null, version: null }),
    read: (findings, watch) => readTopology(source, findings, watch, (s) => (stated = s)),
  };
}

async function* readTopology(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  state: (stated: Stated) => void,
): AsyncGenerator<FeatureBatch> {
  const { name: file } = source;
  const topology = await parsed(source);
  const arcs = decodeArcs(topology, file);
  let features = 0,
    beyond = false;
  const total = Object.keys(topology.objects).length;
  let done = 0;
  for (const [layer, object] of Object.entries(topology.objects)) {
    const builder = new BatchBuilder(layer);
    for (const geometry of members(object)) {
      watch.check();
      features++;
      const from = builder.vertices;
      try {
        put(geometry, builder, arcs, features, findings);
      } catch (error) {
        if (!(error instanceof NotAGeometry)) throw error;
        throw new Problem('topojson-broken', `${file}: geometry ${features} (in ${layer}): ${error.message}. Export it again.`, {
          file,
          record: features,
        });
      }
      beyond ||= builder.someFrom(from, noDegrees);
      if (builder.full) yield builder.take();
    }
    if (builder.count > 0) yield builder.take();
    watch.progress(Math.round((source.size * ++done) / total), source.size);
  }
  state(statedSystem(topology.crs, beyond, file, findings));
}

async function parsed(source: ByteSource): Promise<Topology> {
  const { name: file } = source;
  if (source.size > MOST_BYTES)
    throw new Problem(
      'topojson-too-large',
      `${file} has ${Math.round(source.size / 1024 ** 2)} MB; a topology of at most ${MOST_BYTES / 1024 ** 2} MB is read, as all of it is needed at once. Export it as another format.`,
      { file },
    );
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(await source.read(0, source.size)));
  } catch (error) {
    throw new Problem('json-broken', `${file} cannot be read as JSON (${messageOf(error)}). Export it again.`, { file });
  }
  const { type, objects, arcs } = (json ?? {}) as Partial<Topology>;
  if (type !== 'Topology' || typeof objects !== 'object' || objects === null || !Array.isArray(arcs))
    throw new Problem('topojson-not', `${file} is JSON, but no topology: it has no objects and arcs.`, { file });
  return json as Topology;
}

interface Geometry {
  type?: unknown;
  id?: unknown;
  properties?: unknown;
  geometries?: unknown;
}

/** The geometries of a layer: those of a collection, or the one that it is. Source: TopoJSON 1.0, section 2.1.5. */
function* members(object: unknown): Generator<Geometry> {
  const one = object as Geometry | null;
  if (one?.type === 'GeometryCollection' && Array.isArray(one.geometries)) for (const inner of one.geometries) yield inner as Geometry;
  else if (one) yield one;
}

function put(geometry: Geometry, out: BatchBuilder, arcs: Arcs, feature: number, findings: Findings): void {
  let pieces = 0;
  const end = (kind: number, type: string): void => {
    putProperties(out, geometry.id, geometry.properties, findings);
    out.endFeature(kind, type, feature);
    pieces++;
  };
  for (const simple of simpleOf(geometry, 0)) {
    const type = String(simple.type);
    const kind = putGeometry({ type, coordinates: coordinatesOf(simple as Record<string, unknown>, arcs) }, out, () => {});
    if (kind !== null) end(kind, type);
  }
  if (pieces === 0) {
    findings.add({
      code: 'topojson-no-geometry',
      severity: 'info',
      message: 'An object has no geometry: it is a record without a place.',
      count: 1,
    });
    end(NO_GEOMETRY, 'Feature');
  } else if (pieces > 1)
    findings.add({
      code: 'geojson-collection',
      severity: 'info',
      message: 'A collection of geometries is as many records, each with the data of the feature.',
      count: 1,
    });
}

function* simpleOf(geometry: Geometry, deep: number): Generator<Geometry> {
  if (geometry.type === null || geometry.type === undefined) return;
  if (geometry.type !== 'GeometryCollection') yield geometry;
  else if (deep > 16) throw new NotAGeometry('collections lie in collections more than 16 deep');
  else for (const inner of (geometry.geometries as Geometry[] | undefined) ?? []) yield* simpleOf(inner, deep + 1);
}
