import { runCommand } from './run';
import { clearAwayOnSignals } from './temporary';

clearAwayOnSignals();
const { status, out, err } = await runCommand(process.argv.slice(2));
process.stdout.write(out);
process.stderr.write(err);
process.exitCode = status;
