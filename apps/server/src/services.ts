import type { Config, Database, Storage } from '@rundle/store';
import type { Logger } from 'pino';
import type { EventHub } from './events/hub';

/** What the features of the server work with. */
export interface Services {
  config: Config;
  database: Database;
  storage: Storage;
  hub: EventHub;
  log: Logger;
}
