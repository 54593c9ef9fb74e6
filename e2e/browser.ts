import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { type Browser, chromium, type Download, type Locator, type Page } from 'playwright-core';
import { temporaryFolder, TestServer } from '../tests/server/client';

/** Debian's Chromium, without anything that looks for the network. */
export const CHROMIUM = '/usr/bin/chromium';
export const ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

export const launch = (): Promise<Browser> => chromium.launch({ executablePath: CHROMIUM, args: ARGS });

/** What is waited for on a page, ms: a busy machine takes its time, and a wait that is over costs nothing. */
const WAIT_MS = 45_000;

/** A server of its own and a page on it; errors in the page are collected. */
export class Desk {
  readonly errors: string[] = [];
  private constructor(
    readonly server: TestServer,
    readonly page: Page,
    private readonly browser: Browser,
    private readonly remove: () => void,
    readonly folder: string,
  ) {}

  /** @param touch whether it is a screen that is tapped, of the size of a tablet */
  static async open({ touch = false }: { touch?: boolean } = {}): Promise<Desk> {
    const { folder, remove } = temporaryFolder();
    const server = await TestServer.start(`${folder}/data`);
    const browser = await launch();
    const context = await browser.newContext({
      viewport: touch ? { width: 1024, height: 700 } : { width: 1280, height: 800 },
      hasTouch: touch,
      acceptDownloads: true,
    });
    const page = await context.newPage();
    page.setDefaultTimeout(WAIT_MS);
    const desk = new Desk(server, page, browser, remove, folder);
    // the driver watches for file choosers only while somebody listens, and a key could come before that
    page.on('filechooser', () => {});
    page.on('pageerror', (error) => desk.errors.push(error.message));
    page.on('console', (message) => message.type() === 'error' && desk.errors.push(message.text()));
    return desk;
  }

  async close(): Promise<void> {
    await this.browser.close();
    await this.server.stop();
    this.remove();
  }

  get id(): string {
    return new URL(this.page.url()).pathname.split('/')[2]!;
  }

  /** Drops files on the page as a person does. */
  drop(...files: { name: string; content: Buffer }[]): Promise<void> {
    return this.dropOn(this.page.locator('#root > div').first(), ...files);
  }

  /** Drops files on something that is on the page. */
  async dropOn(target: Locator, ...files: { name: string; content: Buffer }[]): Promise<void> {
    const transfer = await this.page.evaluateHandle(
      (given) => {
        const data = new DataTransfer();
        for (const { name, base64 } of given) data.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
        return data;
      },
      files.map(({ name, content }) => ({ name, base64: content.toString('base64') })),
    );
    for (const event of ['dragenter', 'dragover', 'drop']) await target.dispatchEvent(event, { dataTransfer: transfer });
  }
}

/** Unpacks a downloaded zip with Python's own library and returns the paths. */
export async function unpack(download: Download, folder: string): Promise<string[]> {
  const zip = path.join(folder, 'out.zip');
  await download.saveAs(zip);
  const target = path.join(folder, 'unpacked');
  const result = spawnSync(
    '/usr/bin/python3',
    [
      '-c',
      'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; z.extractall(sys.argv[2]); print("\\n".join(z.namelist()))',
      zip,
      target,
    ],
    { encoding: 'utf8' },
  );
  if (result.status !== 0) throw new Error(result.stderr);
  return result.stdout
    .trim()
    .split('\n')
    .map((name) => path.join(target, name));
}
