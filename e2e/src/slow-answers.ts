import { createServer, type IncomingMessage, request, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';

/** A line to the application on which answers take long, or are held back until they are let through: states that last on a busy machine last here, too. */
export class SlowAnswers {
  /** How long each answer of the HTTP interface takes longer, ms; the stream of events is not an answer. */
  delay = 0;
  private held: RegExp | null = null;
  private waiting: (() => void)[] = [];

  private constructor(
    readonly url: string,
    private readonly to: URL,
    private readonly server: Server,
  ) {}

  /** @param to address of the application */
  static async open(to: string): Promise<SlowAnswers> {
    const server = createServer();
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const line = new SlowAnswers(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, new URL(to), server);
    server.on('request', (asked, answer) => line.pass(asked, answer));
    return line;
  }

  /** From now on answers of paths that match are held back. */
  hold(paths: RegExp): void {
    this.held = paths;
  }

  /** Lets all through that is held back, and holds no more. */
  release(): void {
    this.held = null;
    for (const go of this.waiting.splice(0)) go();
  }

  close(): void {
    this.release();
    this.server.closeAllConnections();
    this.server.close();
  }

  private pass(asked: IncomingMessage, answer: ServerResponse): void {
    const { method, url = '/', headers } = asked;
    const { hostname, port, host } = this.to;
    const onward = request({ hostname, port, method, path: url, headers: { ...headers, host } }, (came) => {
      void this.ready(url).then(() => {
        if (answer.destroyed) return came.destroy();
        answer.writeHead(came.statusCode ?? 502, came.headers);
        came.pipe(answer);
      });
    });
    onward.on('error', () => answer.destroy());
    answer.on('close', () => onward.destroy());
    asked.pipe(onward);
  }

  private async ready(path: string): Promise<void> {
    if (!path.startsWith('/api/') || path === '/api/events') return;
    if (this.held?.test(path)) await new Promise<void>((resolve) => this.waiting.push(resolve));
    await wait(this.delay);
  }
}
