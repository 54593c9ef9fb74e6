import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';
import { documented } from './tools/documented.mjs';

/** What a package may not import from outside. Which of our own packages and folders may use which is in tools/floors.mjs. */
const without = (name, group, message) => ({
  files: [`packages/${name}/src/**/*.{ts,tsx}`],
  rules: { 'no-restricted-imports': ['error', { patterns: [{ group, message }] }] },
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
  without(
    'core',
    ['node:*', 'react', 'react-*', 'ol/*', 'fastify', 'better-sqlite3'],
    'The core runs the same in a worker, on the server and in a test.',
  ),
  {
    files: ['packages/core/src/**/*.ts'],
    rules: { 'no-restricted-globals': ['error', 'window', 'document', 'process', 'Buffer', 'fetch', 'localStorage'] },
  },
  without('web', ['node:*'], 'The page runs in a browser.'),
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
  {
    files: ['packages/core/src/**/*.ts', 'packages/host-node/src/**/*.ts'],
    plugins: { pontrel: { rules: { documented } } },
    rules: { 'pontrel/documented': 'error' },
  },
  { files: ['**/test/**', 'tests/**', 'e2e/**'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
);
