import { fileURLToPath } from 'node:url';
import { type Command, CommanderError } from 'commander';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { registerSkia } from '@pontrel/host-node/canvas';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { gridFolders, registerGrids } from '@pontrel/host-node/grid-folders';
import { program } from './program';
import { type Result, Usage } from './result';
import { clearAwayOnSignals } from './temporary';

const json = process.argv.includes('--json');

/** Errors of commander that are no errors: a help page was asked for. */
const HELP = new Set(['commander.help', 'commander.helpDisplayed', 'commander.version']);

async function run(work: () => Result | Promise<Result>, noGrids: boolean): Promise<void> {
  if (!noGrids) registerGrids(gridFolders(fileURLToPath(new URL('./grids/', import.meta.url)), null));
  registerNodeCodePages();
  registerNodeImageEngine();
  registerSkia();
  const result = await work();
  console.log(json ? JSON.stringify(result.json) : result.text);
  if (!json) for (const note of result.notes ?? []) console.error(note);
  process.exitCode = result.exit;
}

/** Says what went wrong, and sets the exit status: 1 the input is bad, 2 wrong usage. */
function fail(error: unknown): void {
  if (error instanceof CommanderError && HELP.has(error.code)) return;
  const usage = error instanceof Usage || error instanceof CommanderError;
  const code = usage ? 'usage' : error instanceof Problem ? error.code : 'failed';
  const message = messageOf(error).replace(/^error: /, '');
  if (json) console.log(JSON.stringify({ error: { code, message } }));
  else console.error(usage ? `${message}\nSee: pontrel --help` : message);
  process.exitCode = usage ? 2 : 1;
}

/** Every command throws instead of ending the process, and says nothing itself of what is wrong. */
function quiet(command: Command): Command {
  command.exitOverride().configureOutput({ writeErr() {} });
  command.commands.forEach(quiet);
  return command;
}

clearAwayOnSignals();
await quiet(program(run)).parseAsync().catch(fail);
