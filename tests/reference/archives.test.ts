import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { entrySource, zipEntries } from '@pontrel/core/formats/zip/read';
import { ZipWriter } from '@pontrel/core/formats/zip/write';
import { fileSource, folderAt } from '@pontrel/host-node/files';
import { python } from './python';
import { temporaryFolder } from '../server/client';

const { folder, remove } = temporaryFolder();
afterAll(remove);

/** Names and contents of an archive as it is read here. */
async function read(file: string): Promise<Record<string, string>> {
  const source = await fileSource(file);
  const out: Record<string, string> = {};
  for (const entry of await zipEntries(source)) {
    const pieces: Uint8Array[] = [];
    for await (const piece of entrySource(source, entry).stream()) pieces.push(piece);
    out[entry.name] = Buffer.concat(pieces).toString('utf8');
  }
  return out;
}

describe("archives by Python's zipfile", () => {
  let made: Record<string, string>;
  beforeAll(() => {
    made = python('make_archives.py', { folder });
  });

  it.each([
    ['plain', ['a/one.geojson', 'b/two.geojson']],
    ['stored', ['one.geojson']],
    ['comment', ['one.geojson']],
    ['unicode', ['Whārangi 港.geojson']],
    ['large', ['one.geojson']],
    ['zip64', ['one.geojson']],
    ['appended', ['a/one.geojson', 'b/two.geojson']],
    ['name437', ['Café.geojson']],
    // never used as paths; those who take files in give them names of their own
    ['traversal', ['../../etc/one.geojson', 'C:/two.geojson']],
  ])('%s: every file under its name', async (name, files) => {
    const found = await read(made[name]!);
    expect(Object.keys(found)).toEqual(files);
    Object.values(found).forEach((text, k) => expect(JSON.parse(text)).toMatchObject({ features: [{ properties: { n: k + 1 } }] }));
  });

  it.each([
    ['flip', /flip\.zip: one\.geojson cannot be unpacked \(its checksum is wrong\)\. Ask for the archive again\./],
    ['checksum', /one\.geojson cannot be unpacked \(its checksum is wrong\)/],
    ['locked', /one\.geojson is locked with a password/],
    ['method', /one\.geojson cannot be unpacked \(it is packed in a way that is not read\)/],
    ['short', /one\.geojson cannot be unpacked \(it holds (more than|another number of bytes than) its directory says\)/],
    ['bomb', /one\.geojson would unpack to 3815 MB, more than 200 times what it takes/],
    ['nowhere', /one\.geojson cannot be unpacked \(it is not where the directory says\)/],
    ['directory', /(is no sound zip archive|one\.geojson cannot be unpacked)/],
    ['cut', /cut\.zip is no sound zip archive: its directory is missing, so it breaks off/],
    ['begun', /begun\.zip is no sound zip archive: its directory is missing, so it breaks off/],
  ])('%s: refused with a sentence', async (name, message) => {
    await expect(read(made[name]!)).rejects.toThrow(message);
  });

  it('a part of a file, wherever it lies', async () => {
    const source = await fileSource(made.large!);
    const [entry] = await zipEntries(source);
    const whole = entrySource(source, entry!);
    expect(whole.size).toBeGreaterThan(3_000_000);
    expect(Buffer.from(await whole.read(1, 4)).toString()).toBe('"typ');
    expect(Buffer.from(await whole.read(2_999_990, 5)).toString()).toBe('     ');
    expect((await whole.read(whole.size - 3, 100)).length).toBe(3);
  });
});

describe('archives that are written here', () => {
  async function write(name: string): Promise<string> {
    const zip = new ZipWriter(await folderAt(folder).create(name));
    await zip.store('mimetype', new TextEncoder().encode('application/x-thing'));
    await zip.add('empty', []);
    await zip.add(
      'Whārangi/long.txt',
      (function* () {
        for (let k = 0; k < 500; k++) yield new TextEncoder().encode(`line ${k} of many\n`.repeat(100));
      })(),
    );
    await zip.close();
    return `${folder}/${name}`;
  }

  it('are sound to the library of Python, keep to 32 bits, and store what is to be found at the beginning without a word before it', async () => {
    const [told] = python<
      { bad: string | null; files: { name: string; method: number; size: number; extra: string; flags: number; sha: string }[] }[]
    >('read_archive.py', { files: [await write('out.zip')] });
    expect(told!.bad).toBeNull();
    expect(told!.files.map(({ name, method, extra }) => [name, method, extra])).toEqual([
      ['mimetype', 0, ''],
      ['empty', 8, ''],
      ['Whārangi/long.txt', 8, ''],
    ]);
    const text = Array.from({ length: 500 }, (_, k) => `line ${k} of many\n`.repeat(100)).join('');
    expect(told!.files[2]!.sha).toBe(createHash('sha256').update(text).digest('hex'));
    // the sizes of what is stored stand before it, and its bytes at byte 38. Source: "Open Document Format" 1.3, part 2, section 3.3
    expect(told!.files[0]!.flags & 8).toBe(0);
    const bytes = await (await fileSource(`${folder}/out.zip`)).read(30, 27);
    expect(Buffer.from(bytes).toString()).toBe('mimetypeapplication/x-thing');
  });

  it('are the same bytes for the same content', async () => {
    const [a, b] = await Promise.all([await write('a.zip'), await write('b.zip')].map(async (f) => (await fileSource(f)).read(0, 1 << 24)));
    expect(Buffer.compare(a!, b!)).toBe(0);
  });
});
