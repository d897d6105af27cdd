import { type Abilities, addTotals, BEAT, beat, signOn, type WorkerName } from '@rundle/store';
import { Client } from 'pg';
import type { Logger } from 'pino';
import type { Tally } from './tally';

/** After this long without an answer the connection is given up and made anew, in ms. */
const NO_ANSWER = 30_000;

/**
 * Shows the other workers that this one lives: it holds its lock on a connection of its own and beats on it. When the connection
 * breaks, it locks again under its old name.
 */
export class Presence {
  /** Under which the queue's jobs are locked; told to those who clean up after a dead worker. */
  poolId: string | null = null;
  private client: Client | undefined;
  private ended = false;
  private timer: NodeJS.Timeout | undefined;
  private drained = false;
  /** When the connection that is in use was made, in ms since 1970. */
  private since = Date.now();

  constructor(
    private readonly databaseUrl: string,
    private readonly name: WorkerName,
    private readonly abilities: Abilities,
    private readonly tally: Tally,
    private readonly log: Logger,
    private readonly onDrained: (isDrained: boolean) => void,
  ) {}

  /** Signs on; resolves once the lock is held, however long the database is away. */
  async start(): Promise<void> {
    for (;;) {
      if (this.ended || (await this.connect())) return;
      await new Promise((resolve) => setTimeout(resolve, 1000));
    }
  }

  /** How long the connection has held, in ms: a worker that just lost it must not judge others yet. */
  get steadyFor(): number {
    return this.client ? Date.now() - this.since : 0;
  }

  async end(): Promise<void> {
    this.ended = true;
    clearTimeout(this.timer);
    const { client } = this;
    await (client && this.tell(client).then(() => client.end()))?.catch(() => {});
  }

  private async connect(): Promise<boolean> {
    const client = new Client({ connectionString: this.databaseUrl, query_timeout: NO_ANSWER, keepAlive: true });
    client.on('error', (error) => this.lost(client, error));
    client.on('end', () => this.lost(client, new Error('The connection has ended.')));
    try {
      await client.connect();
      await signOn(client, this.name, this.poolId, this.abilities);
    } catch (error) {
      this.log.debug({ err: error }, 'could not sign on yet');
      await client.end().catch(() => {});
      return false;
    }
    this.client = client;
    this.since = Date.now();
    this.beatLater(client);
    return true;
  }

  private beatLater(client: Client): void {
    this.timer = setTimeout(() => {
      beat(client, this.name, this.poolId, this.tally.stats())
        .then(async (drained) => {
          // Others have declared it dead, as after a long pause of the whole machine.
          if (drained === null) await signOn(client, this.name, this.poolId, this.abilities);
          else if (drained !== this.drained) this.onDrained((this.drained = drained));
          await this.tell(client);
          if (this.client === client) this.beatLater(client);
        })
        .catch((error: unknown) => {
          this.lost(client, error);
          void client.end().catch(() => {});
        });
    }, BEAT);
  }

  /** Tells what this worker has done. What was told just when the connection broke may be told twice. */
  private async tell(client: Client): Promise<void> {
    const values = this.tally.open();
    await addTotals(client, values);
    this.tally.told(values);
  }

  private lost(client: Client, error: unknown): void {
    if (this.client !== client) return;
    this.client = undefined;
    clearTimeout(this.timer);
    if (this.ended) return;
    this.log.warn({ err: error }, 'the connection that shows that this worker lives is lost; making it anew');
    void this.start();
  }
}
