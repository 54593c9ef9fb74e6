import { parseArgs } from 'node:util';
import { Problem, messageOf } from '@pontrel/core/model/problem';
import { fileURLToPath } from 'node:url';
import { gridFolders, shelveGrids } from '@pontrel/host-node/grid-folders';
import { convert } from './convert';
import { crs } from './crs';
import { inspect } from './inspect';
import { Usage, USAGE } from './usage';

const OPTIONS = {
  json: { type: 'boolean' },
  from: { type: 'string' },
  to: { type: 'string' },
  layer: { type: 'string', multiple: true },
  chord: { type: 'string' },
  bounds: { type: 'string' },
  append: { type: 'boolean' },
  recipe: { type: 'string' },
  format: { type: 'string' },
  operation: { type: 'string' },
  'no-grids': { type: 'boolean' },
  as: { type: 'string' },
  extent: { type: 'string' },
  near: { type: 'string' },
  help: { type: 'boolean', short: 'h' },
} as const;

const COMMANDS = { inspect, convert, crs } as const;

/** Exit status: 0 done, 1 the input is bad, 2 wrong usage. */
async function main(): Promise<number> {
  const json = process.argv.includes('--json');
  try {
    const { values, positionals } = parsed();
    const [command, ...files] = positionals;
    if (values.help) {
      console.log(USAGE);
      return 0;
    }
    const run = COMMANDS[command as keyof typeof COMMANDS];
    if (!run) throw new Usage(command ? `There is no command "${command}".` : 'A command is missing.');
    if (!values['no-grids']) shelveGrids(gridFolders(fileURLToPath(new URL('./grids/', import.meta.url)), null));
    const result = await run(files, values);
    console.log(json ? JSON.stringify(result.json) : result.text);
    if (!json) for (const note of result.notes ?? []) console.error(note);
    return result.exit;
  } catch (error) {
    const usage = error instanceof Usage;
    const code = usage ? 'usage' : error instanceof Problem ? error.code : 'failed';
    if (json) console.log(JSON.stringify({ error: { code, message: messageOf(error) } }));
    else console.error(`${messageOf(error)}${usage ? `\n\n${USAGE}` : ''}`);
    return usage ? 2 : 1;
  }
}

function parsed(): ReturnType<typeof parseArgs<{ options: typeof OPTIONS; allowPositionals: true }>> {
  try {
    return parseArgs({ args: signed(process.argv.slice(2)), options: OPTIONS, allowPositionals: true });
  } catch (error) {
    throw new Usage(messageOf(error));
  }
}

/** Numbers may begin with a minus sign, which an option's value must be told apart by: "--extent -1,2,3,4" is "--extent=-1,2,3,4". */
function signed(args: string[]): string[] {
  return args.flatMap((arg, i) =>
    /^-[\d.]/.test(arg) && args[i - 1]?.startsWith('--')
      ? []
      : /^--[a-z-]+$/.test(arg) && /^-[\d.]/.test(args[i + 1] ?? '')
        ? [`${arg}=${args[i + 1]}`]
        : [arg],
  );
}

process.exitCode = await main();
