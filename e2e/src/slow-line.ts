import { type AddressInfo, connect, createServer, type Server } from 'node:net';
import { pipeline } from 'node:stream/promises';
import { setTimeout } from 'node:timers/promises';

/** A line to the application over which a browser sends slowly. The browser's own emulation lets whole files through at once. */
export class SlowLine {
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
    const server = createServer((browser) => {
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
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    return new SlowLine(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, server);
  }

  close(): void {
    this.server.close();
  }
}
