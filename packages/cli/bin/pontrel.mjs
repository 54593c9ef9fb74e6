#!/usr/bin/env node
// Starts the built command line; builds it first when it is not there.
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const built = new URL('../../../dist/cli.mjs', import.meta.url);
if (!existsSync(fileURLToPath(built))) {
  const { buildNode } = await import('../../../tools/build.mjs');
  await buildNode();
}
await import(built.href);
