import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from './server/client';

const root = fileURLToPath(new URL('..', import.meta.url));

/** What lint says of the arrows in a house of these files. */
function arrowsOf(files: Record<string, string>): { status: number | null; said: string } {
  const { folder, remove } = temporaryFolder();
  copyFileSync(path.join(root, 'tsconfig.json'), path.join(folder, 'tsconfig.json'));
  for (const [name, content] of Object.entries(files)) {
    const file = path.join(folder, 'packages', name);
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, content);
  }
  const { status, stdout, stderr } = spawnSync(
    path.join(root, 'node_modules/.bin/depcruise'),
    ['--config', path.join(root, '.dependency-cruiser.mjs'), '--output-type', 'err', 'packages'],
    { cwd: folder, encoding: 'utf8' },
  );
  remove();
  return { status, said: `${stdout}${stderr}` };
}

const use = (from: string): string => `import { a } from '${from}';\nexport const b = a;\n`;
const A = 'export const a = 1;\n';

describe('lint', () => {
  it('lets what stands above use what lies below', () => {
    expect(arrowsOf({ 'core/src/crossing/b.ts': use('../model/a'), 'core/src/model/a.ts': A }).status).toBe(0);
  });

  it.each([
    ['core/src/model/b.ts', '../crossing/a', 'core/src/crossing/a.ts', 'core-model-looks-down'],
    ['core/src/crs/b.ts', '../formats/a', 'core/src/formats/a.ts', 'core-crs-looks-down'],
    ['core/src/formats/b.ts', '../content/a', 'core/src/content/a.ts', 'core-formats-looks-down'],
    ['cli/src/b.ts', '../../server/src/a', 'server/src/a.ts', 'cli-keeps-to-its-packages'],
    ['core/src/model/b.ts', '../../../web/src/a', 'web/src/a.ts', 'core-keeps-to-its-packages'],
  ])('%s may not import %s', (file, from, other, rule) => {
    const { status, said } = arrowsOf({ [file]: use(from), [other]: A });
    expect(status).not.toBe(0);
    expect(said).toContain(rule);
  });

  it('finds a circle, by types alone as well', () => {
    const { status, said } = arrowsOf({
      'core/src/model/a.ts': "import type { B } from './b';\nexport interface A { b: B }\n",
      'core/src/model/b.ts': "import type { A } from './a';\nexport interface B { a: A }\n",
    });
    expect(status).not.toBe(0);
    expect(said).toContain('no-circle');
  });
});
