import type { Response } from 'express';

/** Sends a file and waits for its end, so that an error becomes a problem of this request. */
export function sendWhole(response: Response, path: string): Promise<void> {
  return new Promise((resolve, reject) => {
    response.sendFile(path, { dotfiles: 'allow' }, (error) => (error ? reject(error) : resolve()));
  });
}
