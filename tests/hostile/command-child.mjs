// Runs the commands that it is asked to, one after the other, and measures each.
import { readFileSync, writeFileSync } from 'node:fs';
import { runCommand } from '../../dist/command.mjs';

process.on('message', async (words) => {
  globalThis.gc();
  // the peak is counted anew. Source: proc(5), clear_refs, 5
  writeFileSync('/proc/self/clear_refs', '5');
  const before = process.cpuUsage();
  const ended = await runCommand(words);
  const { user, system } = process.cpuUsage(before);
  // Source: proc(5), status, VmHWM
  const peak_kB = Number(/VmHWM:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))[1]);
  process.send({ ...ended, cpu_s: (user + system) / 1e6, peak_MB: peak_kB / 1024 });
});
