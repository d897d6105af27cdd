import { type ChildProcess, fork } from 'node:child_process';
import { COURIER_HEAP_MB, isDatabaseAway, type Config, type Database } from '@rundle/store';
import type { Logger } from 'pino';

/** How often it is looked whether a delivery is open and nobody carries it out, ms: one that was killed is started again. */
const LOOK = 3000;
/** Starting again waits longer each time, up to this, ms; what has run for so long is in order. */
const LONGEST_PAUSE = 60_000;
const IN_ORDER_AFTER = 30_000;
/** How long what is under way may take to end with the server, ms. */
const LAST_MOMENT = 5000;

/** Has deliveries carried out by a program of its own (apps/courier), which runs while there is something to deliver. */
export class Courier {
  private child: ChildProcess | null = null;
  private timer: NodeJS.Timeout | undefined;
  private ending = false;
  private pause = LOOK;
  private notBefore = 0;

  /** @param program path of the bundled `courier` */
  constructor(
    private readonly program: string,
    private readonly config: Pick<Config, 'databaseUrl' | 'data' | 'writeRoots' | 'logLevel'>,
    private readonly database: Database,
    private readonly log: Logger,
  ) {}

  /** Goes on with what is open, now and after any interruption. */
  start(): void {
    const turn = () =>
      this.look()
        .catch((error: unknown) => this.log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error }, 'looking for deliveries failed'))
        .finally(() => {
          if (!this.ending) this.timer = setTimeout(() => void turn(), LOOK).unref();
        });
    void turn();
  }

  /** There is something to deliver, or to go on with. */
  wake(): void {
    if (this.ending) return;
    this.child ??= this.begin();
    if (this.child.connected) this.child.send('look');
  }

  /** A delivery was cancelled. */
  stop(deliveryId: string): void {
    if (this.child?.connected) this.child.send({ stop: deliveryId });
    this.wake();
  }

  async close(): Promise<void> {
    this.ending = true;
    clearTimeout(this.timer);
    const { child } = this;
    if (!child) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    if (child.connected) child.disconnect();
    const overdue = setTimeout(() => child.kill('SIGKILL'), LAST_MOMENT);
    await ended;
    clearTimeout(overdue);
  }

  private async look(): Promise<void> {
    if (this.child || this.ending || Date.now() < this.notBefore) return;
    const open = await this.database.deliveries.count({ where: { state: ['checking', 'sending'] } });
    if (open) this.wake();
  }

  private begin(): ChildProcess {
    const { databaseUrl, data, writeRoots, logLevel } = this.config;
    const own = { RUNDLE_DATABASE_URL: databaseUrl, RUNDLE_DATA: data, RUNDLE_WRITE_ROOTS: writeRoots.join(':'), RUNDLE_LOG: logLevel };
    const child = fork(this.program, { env: { ...process.env, ...own }, execArgv: [`--max-old-space-size=${COURIER_HEAP_MB}`] });
    const begun = Date.now();
    const gone = (code: number | null, signal: NodeJS.Signals | null) => {
      if (this.child === child) this.child = null;
      if (code === 0 || this.ending) return;
      // What ends at once is not tried again at once.
      this.pause = Date.now() - begun > IN_ORDER_AFTER ? LOOK : Math.min(LONGEST_PAUSE, 2 * this.pause);
      this.notBefore = Date.now() + this.pause;
      this.log.error({ code, signal, againInMs: this.pause }, 'the program that carries deliveries out has ended');
    };
    child.once('error', (error) => {
      this.log.error({ err: error }, 'the program that carries deliveries out does not start');
      gone(null, null);
    });
    child.once('exit', gone);
    return child;
  }
}
