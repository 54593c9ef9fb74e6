// npm run demo: sets everything up, starts the server with the demo crossing and says where it is.
import path from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuild, ensureDemoData, ensurePackages, run } from './setup.mjs';
import { startServer } from './server-process.mjs';

const { values } = parseArgs({ options: { port: { type: 'string' }, data: { type: 'string' } } });
ensurePackages();
ensureBuild();
const files = ensureDemoData();

const { child, address } = await startServer([
  ...(values.port ? ['--port', values.port] : []),
  ...(values.data ? ['--data', values.data] : []),
]);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
child.on('exit', (code) => process.exit(code ?? 0));
const data = path.resolve(values.data ?? process.env.PONTREL_DATA ?? 'data');
for (const type of ['a', 'b'])
  run(process.execPath, ['dist/standins.mjs', 'make-card', path.join(data, 'cards', `CARD-${type.toUpperCase()}`), type]);
run(process.execPath, ['dist/demo.mjs', 'seed', files, address]);
console.log(`\n  Pontrel is at ${address}\n  The demo files to drop are in packages/demo/data. Ctrl+C stops it.\n`);
