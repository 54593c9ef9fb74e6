import { readFileSync } from 'node:fs';
import { defineConfig } from 'vitest/config';

/** SQL files are text, as in the build. */
const sqlAsText = {
  name: 'sql-as-text',
  load: (id: string) => (id.endsWith('.sql') ? `export default ${JSON.stringify(readFileSync(id, 'utf8'))}` : undefined),
};

/** Files that put something of theirs in the place of a module: others in the same process may have loaded that already, or would get it afterwards. */
const WITH_MOCKS = ['tests/law/drawn-map.test.ts', 'packages/web/test/map-tool.test.ts'];

export default defineConfig({
  plugins: [sqlAsText],
  test: {
    setupFiles: ['./tests/property-seed.ts', './tests/code-pages.ts'],
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          isolate: false,
          maxWorkers: 2,
          include: ['packages/*/test/**/*.test.ts'],
          exclude: WITH_MOCKS,
          testTimeout: 120_000,
        },
      },
      {
        extends: true,
        test: { name: 'apart', isolate: true, maxWorkers: 2, include: WITH_MOCKS, testTimeout: 600_000, hookTimeout: 180_000 },
      },
      {
        extends: true,
        test: {
          name: 'reference',
          isolate: false,
          maxWorkers: 2,
          include: ['tests/**/*.test.ts'],
          exclude: WITH_MOCKS,
          testTimeout: 600_000,
          hookTimeout: 180_000,
        },
      },
      {
        extends: true,
        test: {
          name: 'browser',
          include: ['e2e/**/*.test.ts'],
          testTimeout: 300_000,
          hookTimeout: 300_000,
          fileParallelism: false,
          // what the page waits for may take as long here as what Playwright waits for
          expect: { poll: { timeout: 45_000 } },
        },
      },
    ],
  },
});
