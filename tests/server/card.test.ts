import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DeliverableForecast } from '@pontrel/contract/crossing';
import type { Card, OnCard } from '@pontrel/contract/pictures';
import { cardChecks, cardStem } from '@pontrel/core/crossing/card';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { insertCard, makeCard } from '@pontrel/standins/field-controller/card';
import { QUAY, temporaryFolder, TestServer } from './client';

const TILE = 'ortho_2025_1.tif';
const demo = path.dirname(QUAY);

describe('the card of a field controller', () => {
  const { folder, remove } = temporaryFolder();
  const data = path.join(folder, 'data');
  const cards = path.join(folder, 'reader');
  let server: TestServer;
  let id: string;
  beforeAll(async () => {
    for (const type of ['a', 'b']) await makeCard(path.join(cards, `CARD-${type}`), type);
    server = await TestServer.start(data, { env: { PONTREL_CARDS: cards } });
    id = (await server.upload('api/crossings', [TILE, readFileSync(path.join(demo, TILE))])).body.id;
    await server.until(id, (s) => s.sources.length === 1 && s.jobs.length === 0);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });
  const deliver = async (change: Partial<Deliverable>) => {
    const { recipe, revision } = await server.state(id);
    recipe.deliverables = [{ id: 'd', name: 'Quay side, for the field', format: 'jpeg', crs: 'EPSG:2193', grouping: 'kind', ...change }];
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision });
    const [forecast] = (await server.call<DeliverableForecast[]>('GET', `api/crossings/${id}/forecasts`)).body;
    return forecast!.picture!;
  };
  const list = async (): Promise<Card[]> => (await server.call<Card[]>('GET', 'api/cards')).body;

  it.each(['CARD-a', 'CARD-b'])(
    '%s gets an image that its device accepts, under a name that it can show, and nothing else',
    async (name) => {
      const { profile } = (await list()).find((c) => c.name === name)!;
      const stem = cardStem(profile, 'Quay side, for the field', 'EPSG:2193');
      const forecast = await deliver({ stem, image: { resampling: 'bilinear', aligned: true }, options: { quality: 85 } });
      expect(cardChecks(profile, forecast, 'EPSG:2193', 700_000).filter((c) => c.how !== null)).toEqual([]);
      await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'd' });
      const { runs } = await server.until(id, (s) => s.runs.some((r) => r.current));
      const { body } = await server.call<OnCard>('POST', `api/runs/${runs[0]!.id}/card`, { card: name });
      expect(body.files).toEqual([`${profile.folder}/${stem}.jgw`, `${profile.folder}/${stem}.jpg`]);
      expect(readdirSync(path.join(cards, name, profile.folder)).sort()).toEqual([`${stem}.jgw`, `${stem}.jpg`]);
      expect(await insertCard(path.join(cards, name))).toEqual([{ file: `${stem}.jpg`, accepted: true, reasons: [] }]);
    },
  );

  it('says beforehand what its device would say, for each thing that it asks for', async () => {
    const [a, b] = (await list()).map((c) => c.profile) as [Card['profile'], Card['profile']];
    const forecast = await deliver({
      stem: 'a_name_that_is_far_too_long',
      crs: 'EPSG:3857',
      image: { resampling: 'bilinear', pixelSize: [0.05, 0.05] },
    });
    const faults = (profile: Card['profile'], bytes: number): string[] =>
      cardChecks(profile, forecast, 'EPSG:3857', bytes).flatMap((c) => (c.how === null ? [] : [c.says]));
    expect(faults(a, 21e6)).toEqual(['At most 40 million pixels', 'At most 20 MB', 'Names of at most 12 plain letters']);
    expect(faults(b, 1e6)).toEqual([
      'At most 8 million pixels',
      'Names of at most 20 plain letters',
      'Number of the system in the name',
      'A system that it knows',
    ]);
    const tiff = await deliver({ format: 'geotiff', stem: 'quay' });
    expect(cardChecks(a, tiff, 'EPSG:2193', 1).flatMap((c) => (c.how === null ? [] : [c.how]))).toEqual([
      'Add a deliverable that is a JPEG with world file.',
      'Choose a format with a world file.',
    ]);
  });

  it('is refused by the device where the files are not what it takes', async () => {
    const own = path.join(folder, 'other-card');
    await makeCard(own, 'a');
    const picture = sharp({ create: { width: 40, height: 30, channels: 3, background: { r: 90, g: 120, b: 80 } } });
    const put = (name: string, bytes: Buffer | string) => writeFileSync(path.join(own, 'BACKDROP', name), bytes);
    put('scans.jpg', await picture.clone().jpeg({ progressive: true }).toBuffer());
    put('scans.jgw', '0.5\n0\n0\n-0.5\n1\n2\n');
    put('turned.jpg', await picture.clone().jpeg({ progressive: false }).toBuffer());
    put('turned.jgw', '0.5\n0.1\n-0.1\n-0.5\n1\n2\n');
    put('five.jpg', await picture.clone().jpeg({ progressive: false }).toBuffer());
    put('five.jgw', '0.5\n0\n0\n-0.5\n1\n');
    put('alone.jpg', await picture.clone().jpeg({ progressive: false }).toBuffer());
    put('no_jpeg.jpg', 'x');
    put('no_jpeg.jgw', '0.5\n0\n0\n-0.5\n1\n2\n');
    expect(Object.fromEntries((await insertCard(own)).map((v) => [v.file, v.reasons]))).toEqual({
      'scans.jpg': ['The image is progressive; only baseline can be unpacked.'],
      'turned.jpg': ['The image is turned, which cannot be shown.'],
      'five.jpg': ['The world file does not have six numbers.'],
      'alone.jpg': ['No world file (.jgw) was found.'],
      'no_jpeg.jpg': ['The image cannot be unpacked.'],
    });
  });

  it('that was taken out is told by its name', async () => {
    const [run] = (await server.state(id)).runs;
    const { status, body } = await server.call('POST', `api/runs/${run!.id}/card`, { card: 'CARD-c' });
    expect([status, body]).toMatchObject([
      400,
      { error: { code: 'card-missing', message: expect.stringContaining('CARD-c is not in the reader') } },
    ]);
  });
});
