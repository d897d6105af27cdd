import { Client } from 'pg';
import { CHANNEL, Notice } from './notice';

/**
 * Listens for what other programs change, and goes on listening after the database was away.
 * @param onNotice called for each notice
 * @param onGap called after a time without connection, in which notices may have been missed
 * @returns ends the listening
 */
export function listen(databaseUrl: string, onNotice: (notice: Notice) => void, onGap: () => void): () => Promise<void> {
  let client: Client | undefined;
  let ended = false;
  const connect = async (again: boolean): Promise<void> => {
    if (ended) return;
    const next = new Client({ connectionString: databaseUrl });
    const retry = () => {
      if (client !== next) return;
      client = undefined;
      setTimeout(() => void connect(true), 1000).unref();
    };
    client = next;
    next.on('error', retry);
    next.on('end', retry);
    next.on('notification', ({ payload }) => onNotice(Notice.parse(JSON.parse(payload ?? ''))));
    try {
      await next.connect();
      await next.query(`LISTEN ${CHANNEL}`);
      if (again) onGap();
    } catch {
      retry();
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
