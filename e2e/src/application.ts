import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { freePort } from '../../scripts/setup/free-port.mjs';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** The whole application as `npm start` brings it up, on a data folder and a port of its own. */
export class Application {
  private constructor(
    readonly url: string,
    readonly data: string,
    private readonly child: ChildProcess,
  ) {}

  get pid(): number {
    return this.child.pid ?? 0;
  }

  /** Programs that it has started, by what they run. */
  children(what: string): number[] {
    return readdirSync('/proc')
      .filter((name) => /^\d+$/.test(name) && existsSync(`/proc/${name}/stat`))
      .filter((name) => {
        try {
          const stat = readFileSync(`/proc/${name}/stat`, 'utf8');
          const parent = Number(stat.slice(stat.lastIndexOf(')')).split(' ')[2]);
          return parent === this.pid && readFileSync(`/proc/${name}/cmdline`, 'utf8').includes(what);
        } catch {
          return false; // it has ended meanwhile
        }
      })
      .map(Number);
  }

  /**
   * @param masters folder of the demo masters; empty for none
   * @param data data folder of an earlier start
   * @param more environment variables beside the usual ones
   */
  static async start(
    masters: string,
    data = mkdtempSync(join(tmpdir(), 'rundle-application-')),
    more: NodeJS.ProcessEnv = {},
  ): Promise<Application> {
    const port = await freePort();
    const env = { ...process.env, RUNDLE_DATA: data, PORT: String(port), RUNDLE_DEMO_MASTERS: masters, RUNDLE_DURABLE: 'no', ...more };
    const child = spawn(process.execPath, ['scripts/start.mjs'], { cwd: ROOT, env, stdio: ['ignore', 'pipe', 'pipe'] });
    let said = '';
    const ready = new Promise<void>((resolve, reject) => {
      const hear = (text: Buffer) => {
        said += text.toString();
        if (said.includes('Rundle is ready')) resolve();
      };
      child.stdout.on('data', hear);
      child.stderr.on('data', hear);
      child.once('exit', () => reject(new Error(`The application did not start:\n${said}`)));
    });
    await ready;
    return new Application(`http://127.0.0.1:${port}`, data, child);
  }

  /** Ends it as Ctrl-C does and tells its exit code. */
  async stop(): Promise<number | null> {
    const ended = new Promise<number | null>((resolve) => this.child.once('exit', resolve));
    this.child.kill('SIGINT');
    const code = await ended;
    rmSync(this.data, { recursive: true, force: true });
    return code;
  }
}
