import { jsonOrNull } from '@rundle/core';
import { Client } from 'pg';
import { CHANNEL, Notice } from './notice';

/**
 * Listens for what other programs change, and goes on listening after the database was away.
 * @param onNotice called for each notice
 * @param onGap called after a time without connection, in which notices may have been missed
 * @param onError told of every loss of the connection, and of notices that make no sense
 * @returns ends the listening
 */
export function listen(
  databaseUrl: string,
  onNotice: (notice: Notice) => void,
  onGap: () => void,
  onError: (error: unknown) => void,
): () => Promise<void> {
  let client: Client | undefined;
  let ended = false;
  const connect = async (again: boolean): Promise<void> => {
    if (ended) return;
    const next = new Client({ connectionString: databaseUrl, keepAlive: true });
    const retry = (error: unknown) => {
      if (client !== next) return;
      client = undefined;
      onError(error);
      setTimeout(() => void connect(true), 1000).unref();
    };
    client = next;
    next.on('error', retry);
    next.on('end', () => retry(new Error('Connection terminated')));
    next.on('notification', ({ payload }) => {
      const notice = Notice.safeParse(jsonOrNull(payload ?? ''));
      if (notice.success) onNotice(notice.data);
      else onError(notice.error);
    });
    try {
      await next.connect();
      await next.query(`LISTEN ${CHANNEL}`);
      if (again) onGap();
    } catch (error) {
      retry(error);
    }
  };
  void connect(false);
  return async () => {
    ended = true;
    const last = client;
    client = undefined;
    await last?.end().catch(() => {});
  };
}
