import { existsSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { BinItem } from '@pontrel/contract/crossing';
import { SURVEY, temporaryFolder, TestServer } from './client';

const PLACEMENT = { crs: 'EPSG:2126', unit_m: 1 };
const NAME = 'street-survey.dxf';

describe('the bin', () => {
  let folder: string, data: string, remove: () => void;
  let server: TestServer;
  let id: string, source: string;
  beforeEach(async () => {
    ({ folder, remove } = temporaryFolder());
    data = path.join(folder, 'data');
    server = await TestServer.start(data);
    const state = await server.placed(SURVEY, PLACEMENT);
    [id, source] = [state.id, state.sources[0]!.id];
  });
  afterEach(async () => {
    await server.stop();
    remove();
  });
  const binned = async (): Promise<BinItem[]> => (await server.call<BinItem[]>('GET', 'api/bin')).body;
  const removeSource = () => server.call('DELETE', `api/crossings/${id}/sources/${source}`);
  const restore = (item: string) => server.call('POST', `api/bin/${item}/restore`);
  const rulesOf = async (name: string) => (await server.state(id)).recipe.sources[name];
  const replaceBy = async (name: string) => {
    const form = new FormData();
    form.append('file', new Blob([readFileSync(SURVEY) as BlobPart]), name);
    await server.call('PUT', `api/crossings/${id}/sources/${source}/file`, form);
    await server.until(id, (s) => s.sources[0]!.name === name && s.jobs.length === 0);
  };

  it('keeps a source that is removed, with its rules; it comes back and runs', async () => {
    await removeSource();
    expect(await server.state(id)).toMatchObject({ sources: [], recipe: { sources: {} } });
    expect(await binned()).toMatchObject([{ id: source, kind: 'source', name: NAME, crossing: 'Street survey', by: null }]);
    await restore(source);
    expect(await binned()).toEqual([]);
    expect(await rulesOf(NAME)).toMatchObject({ placement: PLACEMENT });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    expect((await server.until(id, (s) => s.runs.length > 0)).runs[0]!.status).toBe('match');
  });

  it('gives it back under another name where a file of its name came in meanwhile, each with its own rules', async () => {
    await removeSource();
    await server.upload(`api/crossings/${id}/sources`, [NAME, readFileSync(SURVEY)]);
    await server.until(id, (s) => s.sources.length === 1 && s.jobs.length === 0);
    await restore(source);
    const state = await server.state(id);
    expect(state.sources.map((s) => s.name).sort()).toEqual(['street-survey (2).dxf', NAME].sort());
    expect(state.sources.find((s) => s.id === source)!.name).toBe('street-survey (2).dxf');
    expect(await rulesOf('street-survey (2).dxf')).toMatchObject({ placement: PLACEMENT });
  });

  it('keeps the file in whose place another one was put; both can be had side by side', async () => {
    await replaceBy('survey-b.dxf');
    expect(await binned()).toMatchObject([{ id: source, name: NAME, by: 'survey-b.dxf' }]);
    await restore(source);
    const state = await server.state(id);
    expect(Object.keys(state.recipe.sources).sort()).toEqual([NAME, 'survey-b.dxf'].sort());
    // rules that name both are kept as they are given
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe: state.recipe, revision: state.revision });
    expect(Object.keys((await server.state(id)).recipe.sources).sort()).toEqual([NAME, 'survey-b.dxf'].sort());
  });

  it('stays as it is when the catalog is lost, and when its crossing is binned and comes back', async () => {
    await removeSource();
    await server.stop('SIGKILL');
    for (const end of ['', '-wal', '-shm']) rmSync(path.join(data, `catalog.sqlite${end}`), { force: true });
    server = await TestServer.start(data);
    expect(await binned()).toMatchObject([{ id: source, name: NAME, crossing: 'Street survey' }]);
    expect((await server.state(id)).sources).toEqual([]);
    await server.call('DELETE', `api/crossings/${id}`);
    expect((await binned()).map((i) => i.kind)).toEqual(['crossing']);
    await restore(id);
    await restore(source);
    expect(await rulesOf(NAME)).toMatchObject({ placement: PLACEMENT });
    expect((await server.state(id)).sources.map((s) => s.name)).toEqual([NAME]);
  });

  it('deletes for good what lies in it, and nothing else', async () => {
    const files = path.join(data, 'crossings', id, 'sources', source);
    expect((await server.call('DELETE', `api/bin/${source}`)).status).toBe(404);
    expect((await server.call('DELETE', `api/bin/${id}`)).status).toBe(400);
    await removeSource();
    expect(existsSync(files)).toBe(true);
    expect((await server.call('DELETE', `api/bin/${source}`)).status).toBe(200);
    expect(existsSync(files)).toBe(false);
    expect((await restore(source)).status).toBe(404);
    expect(await binned()).toEqual([]);
  });
});
