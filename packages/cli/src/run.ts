import { fileURLToPath } from 'node:url';
import { type Command, CommanderError } from 'commander';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { registerSkia } from '@pontrel/host-node/canvas';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { gridFolders, registerGrids } from '@pontrel/host-node/grid-folders';
import { program } from './program';
import { type Result, Usage } from './result';

/** How a command ended. */
export interface Ended {
  /** The exit status: 0 done, 1 the input is bad, 2 wrong usage. */
  status: 0 | 1 | 2;
  /** What it says on the standard output and on the standard error. */
  out: string;
  err: string;
}

/** Errors of commander that are no errors: a help page was asked for. */
const HELP = new Set(['commander.help', 'commander.helpDisplayed', 'commander.version']);

/** Every command throws instead of ending the process, and says nothing itself of what is wrong. */
function quiet(command: Command, writeOut: (text: string) => void): Command {
  command.exitOverride().configureOutput({ writeErr() {}, writeOut });
  for (const own of command.commands) quiet(own, writeOut);
  return command;
}

/**
 * Runs a command. Never throws: what went wrong is said on the standard error, or as JSON where that is asked for.
 * @param words of the command line, behind the program's name
 */
export async function runCommand(words: readonly string[]): Promise<Ended> {
  const json = words.includes('--json');
  const ended: Ended = { status: 0, out: '', err: '' };
  const run = async (work: () => Result | Promise<Result>, noGrids: boolean): Promise<void> => {
    if (!noGrids) registerGrids(gridFolders(fileURLToPath(new URL('./grids/', import.meta.url)), null));
    registerNodeCodePages();
    registerNodeImageEngine();
    registerSkia();
    const result = await work();
    ended.status = result.exit;
    ended.out += `${json ? JSON.stringify(result.json) : result.text}\n`;
    if (!json) for (const note of result.notes ?? []) ended.err += `${note}\n`;
  };
  const help = quiet(program(run), (text) => (ended.out += text));
  await help.parseAsync(words, { from: 'user' }).catch((error: unknown) => {
    if (error instanceof CommanderError && HELP.has(error.code)) return;
    const usage = error instanceof Usage || error instanceof CommanderError;
    const code = usage ? 'usage' : error instanceof Problem ? error.code : 'failed';
    const message = messageOf(error).replace(/^error: /, '');
    ended.status = usage ? 2 : 1;
    if (json) ended.out += `${JSON.stringify({ error: { code, message } })}\n`;
    else ended.err += `${usage ? `${message}\nSee: pontrel --help` : message}\n`;
  });
  return ended;
}
