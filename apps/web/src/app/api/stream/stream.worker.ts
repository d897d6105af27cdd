import { browserStream, type PageMessage } from './shared-stream';

/*
 * A shared worker: one for all pages of this browser that come from the same server.
 */

const stream = browserStream();

addEventListener('connect', (event) => {
  const [port] = (event as MessageEvent).ports;
  if (!port) return;
  port.onmessage = ({ data }: MessageEvent<PageMessage>) => stream.hear(port, data);
});
