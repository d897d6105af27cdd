import { type AddressInfo, connect, createServer, type Server, type Socket } from 'node:net';
import { pipeline } from 'node:stream/promises';
import { setTimeout } from 'node:timers/promises';

/** A line to the application over which a browser sends slowly, and that can break. The browser's own emulation lets whole files through at once. */
export class SlowLine {
  private readonly connections = new Set<Socket>();
  private broken = false;

  private constructor(
    readonly url: string,
    private readonly server: Server,
  ) {}

  /**
   * @param to address of the application
   * @param pace bytes a second that the browser can send over each connection
   */
  static async open(to: string, pace: number): Promise<SlowLine> {
    const { hostname, port } = new URL(to);
    const server = createServer();
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const line = new SlowLine(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, server);
    server.on('connection', (browser) => {
      if (line.broken) return browser.destroy();
      line.connections.add(browser);
      browser.once('close', () => line.connections.delete(browser));
      const application = connect(Number(port), hostname);
      const slowly = async function* (source: AsyncIterable<Buffer>) {
        for await (const piece of source) {
          yield piece;
          await setTimeout((1000 * piece.length) / pace);
        }
      };
      const ended = () => {
        browser.destroy();
        application.destroy();
      };
      pipeline(browser, slowly, application).catch(ended);
      pipeline(application, browser).catch(ended);
    });
    return line;
  }

  /** Breaks all connections, and lets none through for a while, in ms. */
  async breaks(pause: number): Promise<void> {
    this.broken = true;
    for (const browser of this.connections) browser.destroy();
    await setTimeout(pause);
    this.broken = false;
  }

  /** Takes no more connections; those that are open end with their pages. */
  close(): void {
    this.server.close();
  }
}
