// Draws the floors of tools/floors.mjs into docs/architecture.md; with --check it only tells whether they stand there as they are.
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { CORE_FLOORS, PACKAGES } from './floors.mjs';
import { root } from './setup.mjs';

const FILE = path.join(root, 'docs/architecture.md');
const [BEGIN, END] = ['<!-- drawn by tools/diagram.mjs from tools/floors.mjs -->', '<!-- end of the drawing -->'];

const packages = Object.entries(PACKAGES).flatMap(([name, may]) => may.map((other) => `  ${name} --> ${other}`));
const floors = CORE_FLOORS.toReversed()
  .slice(0, -1)
  .map((floor, k) => `    ${floor} --> ${CORE_FLOORS.at(-2 - k)}`);
const drawing = ['```mermaid', 'flowchart TB', ...packages, '  subgraph core', ...floors, '  end', '```'].join('\n');

const text = readFileSync(FILE, 'utf8');
const [from, to] = [text.indexOf(BEGIN), text.indexOf(END)];
if (from < 0 || to < from) {
  console.error(`docs/architecture.md has no place for the drawing: ${BEGIN} and ${END} are wanted.`);
  process.exit(1);
}
const drawn = `${text.slice(0, from + BEGIN.length)}\n\n${drawing}\n\n${text.slice(to)}`;
if (!process.argv.includes('--check')) writeFileSync(FILE, drawn);
else if (drawn !== text) {
  console.error('The drawing in docs/architecture.md is not that of tools/floors.mjs: run node tools/diagram.mjs.');
  process.exit(1);
}
