import { type ChildProcess, fork } from 'node:child_process';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import esbuild from 'esbuild';
// @ts-expect-error: the tools have no types
import { nodeOptions } from '../../tools/build.mjs';

const root = fileURLToPath(new URL('../..', import.meta.url));

export interface FuzzQuestion {
  input: string;
  output: string;
}

/** What came of it: what the command line would print, or the problem; `fault` is what no input may cause. */
export interface FuzzAnswer {
  json?: {
    proof: { status: string; differences: { expected: boolean; message: string }[] };
    account: { layer: string; read: number; crossed: number; left: { count: number; reason: string }[] }[];
    findings: { code: string }[];
  };
  problem?: string;
  message?: string;
  fault?: string | null;
  rss_MB?: number;
}

/** A process that converts file after file, ended when it takes too long over one. */
export class FuzzProcess {
  private child: ChildProcess | null = null;

  private constructor(private readonly script: string) {}

  static async make(name: string): Promise<FuzzProcess> {
    const script = path.join(root, '.test-output', `${name}.mjs`);
    const { entryPoints: _entries, outdir: _outdir, outExtension: _extension, ...options } = nodeOptions as esbuild.BuildOptions;
    await esbuild.build({ ...options, entryPoints: ['tests/hostile/fuzz-child.ts'], outfile: script, sourcemap: 'inline' });
    return new FuzzProcess(script);
  }

  async ask(question: FuzzQuestion, limit_ms: number): Promise<FuzzAnswer> {
    const child = (this.child ??= fork(this.script, [], {
      serialization: 'advanced',
      execArgv: ['--enable-source-maps'],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    }));
    let said = '';
    const listen = (d: Buffer): void => void (said += d.toString());
    child.stderr!.on('data', listen);
    const answer = await new Promise<FuzzAnswer>((resolve) => {
      const late = setTimeout(() => resolve({ fault: `took longer than ${limit_ms / 1000} s` }), limit_ms);
      const gone = (code: number | null, signal: string | null): void => {
        clearTimeout(late);
        this.child = null;
        resolve({ fault: `the process ended with ${code ?? signal}: ${said.slice(0, 600)}` });
      };
      child.once('exit', gone);
      child.once('message', (message: FuzzAnswer) => {
        clearTimeout(late);
        child.off('exit', gone);
        resolve(message);
      });
      child.send(question);
    });
    child.stderr!.off('data', listen);
    if (answer.fault) this.end();
    return answer;
  }

  end(): void {
    this.child?.removeAllListeners();
    this.child?.kill('SIGKILL');
    this.child = null;
  }
}
