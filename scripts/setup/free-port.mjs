// @ts-check
import { createServer } from 'node:net';

/**
 * Ports below those that Linux gives to outgoing connections (ip_local_port_range, 32768 to 60999): one that was found free
 * there may be some connection's own before its server listens.
 */
const FIRST = 20_000;
const LAST = 32_000;

/**
 * A port of this machine that nobody listens on.
 * @returns {Promise<number>}
 */
export async function freePort() {
  for (;;) {
    const port = FIRST + Math.floor(Math.random() * (LAST - FIRST));
    if (await canListen(port)) return port;
  }
}

/** @param {number} port @returns {Promise<boolean>} */
function canListen(port) {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', (/** @type {NodeJS.ErrnoException} */ error) =>
      error.code === 'EADDRINUSE' || error.code === 'EACCES' ? resolve(false) : reject(error),
    );
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}
