import type { RequestHandler } from 'express';

/**
 * As Rundle itself: under another name, or for a page of another site, nothing is done.
 * @param what is asked, for the sentence: "The stand-in feed"
 */
export const ownMachineOnly =
  (what: string): RequestHandler =>
  ({ headers, method }, response, next) => {
    const host = headers.host ?? '';
    const isOwn =
      /^(?:localhost|127\.0\.0\.1)(?::\d+)?$/.test(host) && (method === 'GET' || (headers.origin ?? `http://${host}`) === `http://${host}`);
    if (isOwn) next();
    else response.status(403).json({ message: `${what} answers on its own machine and page only.` });
  };
