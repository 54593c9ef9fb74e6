import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import type { Recipe } from '@pontrel/core/crossing/recipe';

const root = fileURLToPath(new URL('../..', import.meta.url));
export const QUAY = path.join(root, 'packages/demo/data/quay-design.dxf');
export const SURVEY = path.join(root, 'packages/demo/data/street-survey.dxf');

/** A folder that is gone after the tests. */
export function temporaryFolder(): { folder: string; remove(): void } {
  const folder = mkdtempSync(path.join(tmpdir(), 'pontrel-test-'));
  return { folder, remove: () => rmSync(folder, { recursive: true, force: true }) };
}

/** A built server on a data folder, as a process of its own. */
export class TestServer {
  private constructor(
    readonly child: ChildProcess,
    readonly address: string,
    readonly said: string[],
  ) {}

  static async start(data: string, { port = 0, env = {} }: { port?: number; env?: Record<string, string> } = {}): Promise<TestServer> {
    const child = spawn(process.execPath, ['dist/server.mjs', '--port', String(port), '--data', data], {
      cwd: root,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, ...env },
    });
    const said: string[] = [];
    return new Promise((resolve, reject) => {
      createInterface({ input: child.stdout }).on('line', (line) => {
        said.push(line);
        const address = /^Pontrel is at (http:\S+)/.exec(line)?.[1];
        if (address) resolve(new TestServer(child, address, said));
      });
      child.on('exit', (code) => reject(new Error(`The server ended with ${code}: ${said.join(' ')}`)));
    });
  }

  /** Starts one, and kills it after so many milliseconds, wherever it is by then. */
  static async killedStarting(data: string, ms: number): Promise<void> {
    const child = spawn(process.execPath, ['dist/server.mjs', '--port', '0', '--data', data], { cwd: root, stdio: 'ignore' });
    await new Promise((resolve) => setTimeout(resolve, ms));
    const gone = new Promise((resolve) => child.once('exit', resolve));
    if (child.exitCode === null) {
      child.kill('SIGKILL');
      await gone;
    }
  }

  /** Ends it; SIGKILL leaves it no time for anything. */
  async stop(signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
    if (this.child.exitCode !== null || this.child.signalCode !== null) return;
    const gone = new Promise((resolve) => this.child.once('exit', resolve));
    this.child.kill(signal);
    await gone;
  }

  async call<T = unknown>(
    method: string,
    url: string,
    body?: unknown,
  ): Promise<{ status: number; body: T & { error?: { code: string; message: string } } }> {
    const form = body instanceof FormData;
    const response = await fetch(new URL(url, this.address), {
      method,
      body: form ? body : body === undefined ? null : JSON.stringify(body),
      headers: form || body === undefined ? {} : { 'content-type': 'application/json' },
    });
    return { status: response.status, body: (await response.json()) as T & { error?: { code: string; message: string } } };
  }

  async bytes(url: string): Promise<{ status: number; bytes: Uint8Array; headers: Headers }> {
    const response = await fetch(new URL(url, this.address));
    return { status: response.status, bytes: new Uint8Array(await response.arrayBuffer()), headers: response.headers };
  }

  state(id: string): Promise<CrossingState> {
    return this.call<CrossingState>('GET', `api/crossings/${id}`).then((r) => r.body);
  }

  /** Hands files in: pairs of a name and what is in it. */
  async upload(
    url: string,
    ...files: [string, Uint8Array | string][]
  ): Promise<{ status: number; body: { id: string; jobs: Job[]; error?: { code: string; message: string } } }> {
    const form = new FormData();
    for (const [name, content] of files) form.append('file', new Blob([content as BlobPart]), name);
    return this.call('POST', url, form);
  }

  /** Deletes a crossing for good. */
  async discard(id: string): Promise<void> {
    await this.call('DELETE', `api/crossings/${id}`);
    await this.call('DELETE', `api/bin/${id}`);
  }

  /** Waits until a condition holds for a crossing. */
  async until(id: string, done: (s: CrossingState) => boolean, ms = 180_000): Promise<CrossingState> {
    const end = Date.now() + ms;
    for (;;) {
      const state = await this.state(id);
      if (done(state)) return state;
      if (Date.now() > end) throw new Error(`Not in time: ${JSON.stringify(state.jobs)}`);
      await new Promise((resolve) => setTimeout(resolve, 30));
    }
  }

  /** A crossing of one drawing, placed and with one shapefile deliverable "out". */
  async placed(file: string, placement: { crs: string; unit_m: number | null }): Promise<CrossingState> {
    const name = path.basename(file);
    const { body } = await this.upload('api/crossings', [name, await readFile(file)]);
    const state = await this.until(body.id, (s) => s.sources.length > 0);
    const recipe: Recipe = {
      ...state.recipe,
      frame: { crs: placement.crs },
      sources: { [name]: { placement, layers: {} } },
      deliverables: [{ id: 'out', name: 'Council upload', format: 'shapefile', crs: placement.crs, grouping: 'layer' }],
    };
    return (await this.call<CrossingState>('PUT', `api/crossings/${state.id}/recipe`, { recipe, revision: state.revision })).body;
  }
}
