import { connect, createServer, type Socket } from 'node:net';

/** A line to a port of this machine that breaks again and again. */
export class BreakingLine {
  private constructor(
    readonly port: number,
    /** How often it has broken. */
    readonly broken: () => number,
    readonly close: () => void,
  ) {}

  /**
   * @param breaks how often it breaks; then it holds
   * @param after so many bytes towards the port since the last time
   */
  static async open(port: number, breaks: number, after: number): Promise<BreakingLine> {
    let left = breaks;
    let passed = 0;
    const open = new Set<Socket>();
    // Without delay, as a line by itself has none: see Nagle's algorithm, RFC 896.
    const line = createServer({ noDelay: true }, (near) => {
      const far = connect({ port, host: '127.0.0.1', noDelay: true });
      for (const socket of [near, far]) {
        open.add(socket);
        socket.on('error', () => {});
        socket.on('close', () => {
          open.delete(socket);
          near.destroy();
          far.destroy();
        });
      }
      near.on('data', (data) => {
        passed += data.length;
        if (left === 0 || passed <= after) return;
        left--;
        passed = 0;
        for (const socket of open) socket.destroy();
      });
      near.pipe(far);
      far.pipe(near);
    });
    await new Promise<void>((resolve) => line.listen(0, '127.0.0.1', resolve));
    const { port: own } = line.address() as { port: number };
    return new BreakingLine(
      own,
      () => breaks - left,
      () => void line.close(),
    );
  }
}
