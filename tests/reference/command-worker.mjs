// Runs commands of the built command line in a thread, one after the other, for tests that wait for each.
import { runAsWorker } from 'synckit';
import { runCommand } from '../../dist/command.mjs';

runAsWorker((words) => runCommand(words));
