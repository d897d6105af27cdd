import { createServer } from 'node:http';
import { migrate, openDatabase, readConfig, Storage } from '@rundle/store';
import { pino } from 'pino';
import { EventHub } from './events/hub';
import { buildApp } from './http/app';
import { seed } from './seed';
import { emptyBin } from './sets/empty-bin';
import { SetThreads } from './threads/set-threads';

const config = readConfig();
const log = pino({ level: config.logLevel, name: 'server' });
const database = openDatabase(config.databaseUrl);
await migrate(database, config.databaseUrl);
const hub = new EventHub(database, config.databaseUrl);
const threads = new SetThreads(new URL('./set-thread.js', import.meta.url), config);
const services = { config, database, storage: new Storage(config.data), hub, threads, log };
await seed(services);
const forgotten = await emptyBin(services);
if (forgotten) log.info({ files: forgotten }, 'what was in the bin for long is gone');
const server = createServer(buildApp(services));
server.once('error', (error: NodeJS.ErrnoException) => {
  log.fatal(error.code === 'EADDRINUSE' ? `Port ${config.port} is taken by another program. Choose another one with PORT=...` : error);
  process.exit(1);
});
server.listen(config.port, '127.0.0.1', () => process.send?.('ready'));

let ending = false;
async function end(): Promise<void> {
  if (ending) return;
  ending = true;
  await hub.close();
  server.close();
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), 2000).unref();
  await new Promise((resolve) => server.once('close', resolve));
  await threads.close();
  await database.close();
  process.exit(0);
}
process.once('SIGTERM', () => void end());
process.once('SIGINT', () => void end());
// Whoever started us is gone, perhaps killed: do not stay behind alone.
process.once('disconnect', () => void end());
