import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Arrows between the packages point down only. Each is told what it may not import. */
const ALL = ['core', 'contract', 'server', 'cli', 'web', 'demo'];
const MAY = {
  core: [],
  contract: ['core'],
  server: ['core', 'contract'],
  cli: ['core', 'server'],
  web: ['core', 'contract'],
  demo: ['core'],
};

const layer = (name, more = []) => ({
  files: [`packages/${name}/src/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: ALL.filter((p) => p !== name && !MAY[name].includes(p)).map((p) => `@pontrel/${p}/*`),
            message: 'Arrows between the packages point down only (docs/architecture.md).',
          },
          ...more,
        ],
      },
    ],
  },
});

const COLOR = 'Colours stand in palette.ts of the contract and nowhere else.';

export default tseslint.config(
  { ignores: ['dist/', 'node_modules/', 'packages/demo/data/', 'data/', '.test-output/'] },
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'none' }],
      eqeqeq: 'error',
    },
  },
  layer('core', [
    {
      group: ['node:*', 'react', 'react-*', 'ol/*', 'fastify', 'better-sqlite3'],
      message: 'The core runs the same in a worker, on the server and in a test.',
    },
  ]),
  {
    files: ['packages/core/src/**/*.ts'],
    rules: { 'no-restricted-globals': ['error', 'window', 'document', 'process', 'Buffer', 'fetch', 'localStorage'] },
  },
  ...['contract', 'server', 'cli', 'demo'].map((name) => layer(name)),
  layer('web', [{ group: ['node:*'], message: 'The page runs in a browser.' }]),
  {
    files: ['packages/web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      'no-restricted-syntax': [
        'error',
        { selector: 'Literal[value=/^(#[0-9a-fA-F]{3,8}|rgba?\\()/]', message: COLOR },
        { selector: 'TemplateElement[value.raw=/(#[0-9a-fA-F]{6}|rgba?\\()/]', message: COLOR },
      ],
    },
  },
  { files: ['**/test/**', 'tests/**', 'e2e/**'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
);
