import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { root } from './setup.mjs';

/** Starts the built server and waits until it says where it is. Lines that it prints before that are passed on. */
export function startServer(args, options = {}) {
  const child = spawn(process.execPath, ['dist/server.mjs', ...args], { cwd: root, stdio: ['ignore', 'pipe', 'inherit'], ...options });
  return new Promise((resolve, reject) => {
    const lines = createInterface({ input: child.stdout });
    lines.on('line', (line) => {
      const address = /^Pontrel is at (http:\S+)/.exec(line)?.[1];
      if (address) resolve({ child, address });
      else if (!options.quiet) console.log(line);
    });
    child.on('exit', (code) => reject(new Error(`The server ended with ${code} before it was ready.`)));
  });
}
