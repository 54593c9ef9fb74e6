import { readFile } from 'node:fs/promises';
import path from 'node:path';

interface Job {
  id: string;
  status: string;
  message: string | null;
}

interface State {
  revision: number;
  recipe: { frame: unknown; sources: Record<string, unknown>; deliverables: unknown[] };
  sources: { name: string }[];
  runs: unknown[];
  jobs: Job[];
}

const FRAME = 'EPSG:2193';
const LOTS = 'lots-and-sewers.dxf';

/** Puts the demo crossings into a server that has none, by its own HTTP API. */
export async function seedDemo(address: string, folder: string): Promise<void> {
  const call = async <T>(method: string, url: string, body?: unknown): Promise<T> => {
    const isForm = body instanceof FormData;
    const response = await fetch(new URL(url, address), {
      method,
      body: isForm ? body : body === undefined ? null : JSON.stringify(body),
      headers: isForm || body === undefined ? {} : { 'content-type': 'application/json' },
    });
    const json = (await response.json()) as T & { error?: { message: string } };
    if (!response.ok) throw new Error(json.error?.message ?? response.statusText);
    return json;
  };
  const until = async (id: string, done: (s: State) => boolean): Promise<State> => {
    for (;;) {
      const state = await call<State>('GET', `api/crossings/${id}`);
      if (done(state)) return state;
      const failed = state.jobs.find((j) => j.status === 'failed');
      if (failed) throw new Error(failed.message ?? 'The demo could not be read.');
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const gather = async (name: string, ...files: string[]): Promise<{ id: string; state: State }> => {
    const form = new FormData();
    for (const file of files) form.append('file', new Blob([await readFile(path.join(folder, file))]), file);
    const { id } = await call<{ id: string }>('POST', 'api/crossings', form);
    await call('PATCH', `api/crossings/${id}`, { name });
    // companions belong to their main file, and tiles are one source
    const sources = new Set(files.filter((f) => !/\.(shx|dbf|prj|cpg|jgw)$/.test(f)).map((f) => f.replace(/_\d\.tif$/, '.tif'))).size;
    return { id, state: await until(id, (s) => s.sources.length === sources) };
  };
  if ((await call<unknown[]>('GET', 'api/crossings')).length > 0) return;

  await gather('Harbour Street survey', 'street-survey.dxf');

  // the site is left to be fitted to the marks that it shares with the quay
  const site = await gather('Warehouse behind the quay', 'quay-design.dxf', 'mains-1987.dxf', 'warehouse-site.dxf');
  await call('PUT', `api/crossings/${site.id}/recipe`, {
    revision: site.state.revision,
    recipe: {
      ...site.state.recipe,
      frame: { crs: FRAME },
      sources: {
        'quay-design.dxf': { placement: { crs: FRAME, unit_m: 0.001 }, layers: {} },
        'mains-1987.dxf': { placement: { crs: 'EPSG:27200', unit_m: 1 }, layers: {} },
      },
    },
  });

  const atlas = await gather(
    'Atlas for the public meeting',
    'parcels.shp',
    'parcels.shx',
    'parcels.dbf',
    'parcels.prj',
    'parcels.cpg',
    'zones.geojson',
    'coast-path.kml',
  );
  await call('PUT', `api/crossings/${atlas.id}/recipe`, {
    revision: atlas.state.revision,
    recipe: {
      ...atlas.state.recipe,
      frame: { crs: FRAME },
      deliverables: [
        {
          id: 'globe',
          name: 'On a globe, for the meeting',
          format: 'kml',
          crs: 'EPSG:4326',
          grouping: 'layer',
          options: {
            container: 'kmz',
            name: '{PARCEL_ID}{zone_name}{name}',
            points: 'symbol',
            symbol: 'POINT_RING',
            description: 'What the plan means for each street. Heights are those of the plan.',
          },
        },
        { id: 'archive', name: 'Archive', format: 'geopackage', crs: FRAME, grouping: 'layer' },
        {
          id: 'page',
          name: 'For the web page',
          format: 'geojson',
          crs: 'EPSG:4326',
          grouping: 'layer',
          options: { precision: 0.01, looks: 'simplestyle' },
        },
      ],
    },
  });
  for (const deliverable of ['globe', 'archive', 'page']) await call('POST', `api/crossings/${atlas.id}/runs`, { deliverable });
  await until(atlas.id, (s) => s.runs.length === 3);

  const imagery = await gather(
    'Images for the field',
    'ortho_2025_1.tif',
    'ortho_2025_2.tif',
    'ortho_2025_3.tif',
    'ortho_2025_4.tif',
    'aerial_1962.jpg',
    'aerial_1962.jgw',
    'quay_plan_1938.tif',
    'elevation_2m.tif',
    'parcels.shp',
    'parcels.shx',
    'parcels.dbf',
    'parcels.prj',
    'parcels.cpg',
    'quay-design.dxf',
  );
  // the scan is left to be fitted to the marks of the quay
  await call('PUT', `api/crossings/${imagery.id}/recipe`, {
    revision: imagery.state.revision,
    recipe: {
      ...imagery.state.recipe,
      frame: { crs: FRAME },
      sources: {
        ...imagery.state.recipe.sources,
        'quay-design.dxf': { placement: { crs: FRAME, unit_m: 0.001 }, layers: {} },
        'aerial_1962.jpg': { placement: { crs: 'EPSG:27200', unit_m: null }, layers: {}, image: { shown: { hidden: true } } },
      },
      deliverables: [
        {
          id: 'card',
          name: 'Field controller card',
          stem: 'averil_quay',
          format: 'jpeg',
          crs: 'EPSG:2126',
          grouping: 'kind',
          area: { kind: 'box', box: [1_464_080, 5_101_300, 1_464_400, 5_101_680] },
          options: { quality: 88 },
          image: { resampling: 'bilinear', aligned: true, sources: ['ortho_2025_{1..4}.tif'], pixelSize: [0.25, 0.25], card: 'CARD-A' },
        },
      ],
    },
  });
  await call('POST', `api/crossings/${imagery.id}/runs`, { deliverable: 'card' });
  await until(imagery.id, (s) => s.runs.length === 1);

  const lots = await gather('Lots, sewers and ground', LOTS);
  await call('PUT', `api/crossings/${lots.id}/recipe`, {
    revision: lots.state.revision,
    recipe: {
      ...lots.state.recipe,
      frame: { crs: FRAME },
      sources: { [LOTS]: { placement: { crs: FRAME, unit_m: 1 }, layers: {} } },
    },
  });
  const derive = async (name: string, operation: string, roles: Record<string, string[]>, settings: object): Promise<void> => {
    const of = (layers: string[]): object[] => layers.map((layer) => ({ source: LOTS, layer }));
    await call('POST', `api/crossings/${lots.id}/derived`, {
      name,
      operation,
      settings,
      roles: Object.fromEntries(Object.entries(roles).map(([role, layers]) => [role, of(layers)])),
    });
    await until(lots.id, (s) => s.sources.some((own) => own.name === `${name}.gpkg`));
  };
  await derive('Lots', 'polygonize', { lines: ['BOUNDARY', 'LOT-TEXT'] }, { tolerance: 0.02 });
  await derive(
    'Sewer',
    'network',
    { pipes: ['SEWER'], structures: ['MANHOLE'], texts: ['PIPE-TEXT'] },
    { tolerance: 0.05, structureId: 'NUMBER', rim: 'RIM', sump: 'SUMP' },
  );
  await derive('Ground', 'surface', { surface: ['SPOT-LEVEL', 'CONTOUR'] }, { spike: 2 });

  const quay = await gather('Ferry quay rebuild', 'quay-design.dxf');
  const saved = await call<State>('PUT', `api/crossings/${quay.id}/recipe`, {
    revision: quay.state.revision,
    recipe: {
      ...quay.state.recipe,
      frame: { crs: FRAME },
      sources: {
        'quay-design.dxf': {
          placement: { crs: FRAME, unit_m: 0.001 },
          layers: {
            'TITLE-BLOCK': { taken: false },
            'CL-ALIGN': { taken: false },
            'WATER-MAIN': { computed: ['length'] },
            'LEASE-PARCEL': { computed: ['area'] },
          },
        },
      },
      deliverables: [
        { id: 'council', name: 'Council asset upload', format: 'shapefile', crs: FRAME, grouping: 'layer' },
        { id: 'circuit', name: 'Survey office, local circuit', format: 'shapefile', crs: 'EPSG:2126', grouping: 'kind' },
        {
          id: 'plan',
          name: 'Plan for the contractor',
          format: 'dxf',
          crs: FRAME,
          grouping: 'layer',
          options: { version: 'R2018', label: '{VALVE_ID}', label_height: 0.8, points: 'block', symbol: 'POINT_MARK' },
        },
      ],
    },
  });
  for (const deliverable of ['council', 'circuit', 'plan']) await call('POST', `api/crossings/${quay.id}/runs`, { deliverable });
  await until(quay.id, (s) => s.runs.length === saved.recipe.deliverables.length);
}
