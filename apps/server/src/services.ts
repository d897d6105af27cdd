import type { Config, Database, Files } from '@rundle/store';
import type { Logger } from 'pino';
import type { Backups } from './backups/backups';
import type { Courier } from './deliveries/courier';
import type { EventHub } from './events/hub';
import type { Trials } from './receivers/trials';
import type { Samplers } from './samples/samplers';
import type { CheckedMarks } from './watermarks/checked-marks';
import type { SetThreads } from './threads/set-threads';

/** What the features of the server work with. */
export interface Services {
  config: Config;
  database: Database;
  files: Files;
  hub: EventHub;
  threads: SetThreads;
  samplers: Samplers;
  /** Path of the bundled `sheet-process`. */
  sheetProgram: string;
  /** Path of the bundled command line. */
  rundleProgram: string;
  courier: Courier;
  backups: Backups;
  trials: Trials;
  checkedMarks: CheckedMarks;
  log: Logger;
}

/** What the features need that also work in threads. */
export type Stores = Pick<Services, 'database' | 'files'>;
