import { readFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { generic } from 'flatgeobuf';

/** Records and tokens of written files, as other programs see them: FlatGeobuf by the library of its makers, all else in tokens.py. */
export async function heldBy(files: readonly string[]): Promise<{ records: number; tokens: string[] }> {
  const flat = files.filter((f) => f.endsWith('.fgb'));
  const tokens: (string | null)[] = [];
  for (const file of flat) {
    // features are asked for their data alone: records without a geometry are none to the library's own GeoJSON
    const fromFeature = (
      _id: number,
      feature: Parameters<typeof generic.parseProperties>[0],
      header: { columns: Parameters<typeof generic.parseProperties>[1] },
    ): unknown => ({
      properties: generic.parseProperties(feature, header.columns),
    });
    for await (const feature of generic.deserialize(new Uint8Array(readFileSync(file)), { fromFeature } as never))
      tokens.push(String((feature as unknown as { properties: Record<string, unknown> }).properties.token ?? ''));
  }
  const others = files.filter((f) => !f.endsWith('.fgb'));
  if (others.length > 0) {
    const result = spawnSync('/usr/bin/python3', [fileURLToPath(new URL('tokens.py', import.meta.url))], {
      input: JSON.stringify({ files: others }),
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    });
    if (result.status !== 0) throw new Error(`tokens.py: ${result.stderr}`);
    for (const one of JSON.parse(result.stdout) as { tokens: (string | null)[] }[]) tokens.push(...one.tokens);
  }
  expectTokens(tokens);
  return { records: tokens.length, tokens: tokens as string[] };
}

function expectTokens(tokens: readonly (string | null)[]): void {
  const without = tokens.filter((t) => t === null || !/^rec-\d+$/.test(t)).length;
  if (without > 0) throw new Error(`${without} of ${tokens.length} written records carry no token.`);
}
