import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { temporaryFolder, TestServer } from './client';

const root = fileURLToPath(new URL('../..', import.meta.url));

describe('a server that is told to listen to other machines', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let key: string, at: string;
  beforeAll(async () => {
    server = await TestServer.start(folder, { env: { HOST: '0.0.0.0' } });
    key = new URL(server.address).searchParams.get('key')!;
    at = `http://127.0.0.1:${new URL(server.address).port}/`;
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });
  const ask = (path: string, headers: Record<string, string> = {}): Promise<Response> =>
    fetch(new URL(path, at), { redirect: 'manual', headers });

  it('answers only who has the key, in the address first and as a cookie afterwards', async () => {
    expect(key.length).toBe(43);
    expect((await ask('api/crossings')).status).toBe(401);
    expect((await ask('')).status).toBe(401);
    expect((await ask(`?key=${key.slice(1)}x`)).status).toBe(401);
    expect((await ask('api/crossings', { cookie: 'pontrel-key=guess' })).status).toBe(401);
    const opened = await ask(`?key=${key}&a=1`);
    expect([opened.status, opened.headers.get('location')]).toEqual([303, '/?a=1']);
    const cookie = opened.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    const known = { cookie: cookie.split(';')[0]! };
    expect((await ask('api/crossings', known)).status).toBe(200);
    // other pages stay out, even of a browser that has the key
    expect((await ask('api/crossings', { ...known, origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await ask('api/crossings', { ...known, 'sec-fetch-site': 'cross-site' })).status).toBe(403);
  });

  it('is known to a second one, and has the same key after a start', async () => {
    const second = spawnSync(process.execPath, ['dist/server.mjs', '--port', '0', '--data', folder], {
      cwd: root,
      encoding: 'utf8',
      timeout: 60_000,
    });
    expect([second.status, second.stdout]).toEqual([0, expect.stringMatching(/Pontrel is at http:\/\/127\.0\.0\.1:\d+\/ already/)]);
    await server.stop();
    server = await TestServer.start(folder, { env: { HOST: '0.0.0.0' } });
    expect(new URL(server.address).searchParams.get('key')).toBe(key);
  });

  it('says in one sentence that an address is none of this machine', () => {
    const other = temporaryFolder();
    const { status, stderr } = spawnSync(process.execPath, ['dist/server.mjs', '--port', '0', '--data', other.folder], {
      cwd: root,
      encoding: 'utf8',
      timeout: 60_000,
      env: { ...process.env, HOST: '203.0.113.9' },
    });
    other.remove();
    expect([status, stderr]).toEqual([
      1,
      'HOST wants an address of this machine, such as 0.0.0.0 for all of them; "203.0.113.9" is none.\n',
    ]);
  });
});
