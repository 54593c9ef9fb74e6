import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('../..', import.meta.url));

export interface Measured {
  status: number | null;
  signal: string | null;
  out: string;
  err: string;
  /** What all of its threads worked, not how long it took: what else the machine does is not its own. Source: proc(5), utime and stime. */
  cpu_s: number;
  /** The most memory that it held, MB. Source: proc(5), VmHWM. */
  peak_MB: number;
}

/** How often its memory is looked at. The system keeps the peak, so that none is missed but for the last moments. */
const LOOK_MS = 30;

/** Ticks of the clock in a second. Source: proc(5), sysconf(_SC_CLK_TCK), 100 on Linux. */
const TICKS = 100;

/** Runs the built command line, and measures it; after `limit_s` it is ended. */
export function measured(args: readonly string[], limit_s: number): Promise<Measured> {
  const child = spawn(process.execPath, ['dist/cli.mjs', ...args], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  let [out, err, peak_MB, cpu_s] = ['', '', 0, 0];
  child.stdout.on('data', (d: Buffer) => (out += d.toString()));
  child.stderr.on('data', (d: Buffer) => (err += d.toString()));
  const look = setInterval(() => {
    try {
      const [, kB] = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8')) ?? [];
      peak_MB = Math.max(peak_MB, Number(kB ?? 0) / 1024);
      // fields 14 and 15, counted from behind the name, which may have spaces in it
      const fields = readFileSync(`/proc/${child.pid}/stat`, 'latin1').split(') ')[1]!.split(' ');
      cpu_s = (Number(fields[11]) + Number(fields[12])) / TICKS;
    } catch {
      // it has ended
    }
  }, LOOK_MS);
  const end = setTimeout(() => child.kill('SIGKILL'), limit_s * 1000);
  return new Promise((resolve) =>
    child.on('close', (status, signal) => {
      clearInterval(look);
      clearTimeout(end);
      resolve({ status, signal, out, err, cpu_s, peak_MB });
    }),
  );
}
