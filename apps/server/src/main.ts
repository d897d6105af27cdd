import { createServer } from 'node:http';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  checkDatabase,
  claimStudio,
  ForeignDatabase,
  isDatabaseAway,
  migrate,
  openDatabase,
  openFiles,
  openLog,
  outputsFolder,
  readConfig,
  UnusableDatabase,
  whenThere,
} from '@rundle/store';
import { Backups } from './backups/backups';
import { Courier } from './deliveries/courier';
import { EventHub } from './events/hub';
import { buildApp } from './http/app';
import { Housekeeping } from './housekeeping/housekeeping';
import { Trials } from './receivers/trials';
import { Samplers } from './samples/samplers';
import { seed } from './seed';
import { StandingOrders } from './standing-orders/standing-orders';
import { CheckedMarks } from './watermarks/checked-marks';
import { SetThreads } from './threads/set-threads';

// The parent process may be killed at any moment: exit with it. Until everything has started there is nothing to clean up.
let end = (): Promise<void> => process.exit(0);
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, () => void end());
// The parent may have ended while this program was loading. A program started by hand has none.
const started: { connected?: boolean } = process;
if (started.connected === false) process.exit(0);

const config = readConfig();
const log = openLog('server', config.logLevel);
process.on('unhandledRejection', (error) =>
  log[isDatabaseAway(error) ? 'warn' : 'error']({ err: error }, 'something that nobody waited for failed'),
);
const database = openDatabase(config.databaseUrl);
const files = await openFiles(config.data, config.writeRoots);
const away = (error: unknown) => log.warn({ err: error }, 'the database is away; waiting for it');
try {
  const worthTelling = await whenThere(() => checkDatabase(config.databaseUrl), away);
  if (worthTelling) log.warn(worthTelling);
  await whenThere(() => migrate(database, config.databaseUrl, outputsFolder(config.data)), away);
  await whenThere(() => claimStudio(database, files.masters, config.data, config.studio), away);
} catch (error) {
  if (!(error instanceof ForeignDatabase || error instanceof UnusableDatabase)) throw error;
  process.stderr.write(`\n${error.message}\n`);
  process.exit(1);
}
const hub = new EventHub(database, config.databaseUrl, log);
const threads = new SetThreads(new URL('./set-thread.js', import.meta.url), config);
const samplers = new Samplers(fileURLToPath(new URL('./sample-process.js', import.meta.url)), join(config.data, 'samples'));
const courier = new Courier(fileURLToPath(new URL('./courier.js', import.meta.url)), config, database, log);
const backups = new Backups(fileURLToPath(new URL('./keeper.js', import.meta.url)), config, database, log);
const trials = new Trials(fileURLToPath(new URL('./receiver-trial.js', import.meta.url)));
const checkedMarks = new CheckedMarks(fileURLToPath(new URL('./mark-check.js', import.meta.url)));
const sheetProgram = fileURLToPath(new URL('./sheet-process.js', import.meta.url));
const rundleProgram = fileURLToPath(new URL('./rundle.js', import.meta.url));
const services = {
  config,
  database,
  files,
  hub,
  threads,
  samplers,
  sheetProgram,
  rundleProgram,
  courier,
  backups,
  trials,
  checkedMarks,
  log,
};
await whenThere(() => seed(services), away);
const { app, lookAfterUploads } = buildApp(services);
// Idle connections are kept for a minute: one that is closed just as a late caller uses it again is told as a failure.
const server = createServer({ headersTimeout: 15_000, requestTimeout: 0, keepAliveTimeout: 65_000 }, app);
server.once('error', (error: NodeJS.ErrnoException) => {
  log.fatal(error.code === 'EADDRINUSE' ? `Port ${config.port} is taken by another program. Choose another one with PORT=...` : error);
  process.exit(1);
});
const housekeeping = new Housekeeping(services, lookAfterUploads);
const orders = new StandingOrders(services);
server.listen(config.port, '127.0.0.1', () => {
  housekeeping.start();
  orders.start();
  courier.start();
  process.send?.('ready');
});

/** How long a shutdown may take before it is forced, in ms: the database may be away. */
const LAST_MOMENT = 10_000;

let ending = false;
end = async () => {
  if (ending) return;
  ending = true;
  setTimeout(() => process.exit(0), LAST_MOMENT).unref();
  housekeeping.end();
  await orders.end();
  await hub.close();
  server.close();
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), 2000).unref();
  await new Promise((resolve) => server.once('close', resolve));
  await backups.close();
  await courier.close();
  await threads.close();
  await samplers.close();
  await database.close();
  process.exit(0);
};
