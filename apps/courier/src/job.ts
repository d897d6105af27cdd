import { mkdir } from 'node:fs/promises';
import { NewDelivery, type Problem } from '@rundle/core';
import {
  type Database,
  deliveryFolder,
  type DeliveryFileRow,
  type DeliveryRow,
  type Files,
  notifyTopic,
  type Secrets,
  whenThere,
} from '@rundle/store';
import type { Logger } from 'pino';

/** What those who carry deliveries out work with. */
export interface CourierContext {
  database: Database;
  files: Files;
  secrets: Secrets;
  /** The data folder. */
  data: string;
  /** Folders of the machine that may be written to. */
  writeRoots: readonly string[];
  log: Logger;
}

/** Lines of a log that are kept: the first tell what it began with, the last how it ended. */
const MOST_LINES = 400;

/** Somebody has cancelled the delivery, or the program ends. */
export class Stopped extends Error {}

/** A delivery that is being carried out, with what is written down of it. */
export class Job {
  readonly wish: NewDelivery;
  private telling = Promise.resolve();

  constructor(
    readonly context: CourierContext,
    readonly row: DeliveryRow,
    readonly signal: AbortSignal,
  ) {
    this.wish = NewDelivery.parse(row.wish);
  }

  /** A folder for what is made for it. */
  async folder(): Promise<string> {
    const folder = deliveryFolder(this.context.data, this.row.id);
    await mkdir(folder, { recursive: true });
    return folder;
  }

  /** @throws Stopped */
  goOn(): void {
    if (this.signal.aborted) throw new Stopped();
  }

  /** Does something in the database, and waits while that is away. */
  inDatabase<T>(act: () => Promise<T>): Promise<T> {
    return whenThere(act, (error) => this.context.log.warn({ err: error }, 'the database is away; a delivery waits for it'), this.signal);
  }

  files(where: object = {}): Promise<DeliveryFileRow[]> {
    const { deliveryFiles } = this.context.database;
    return this.inDatabase(() => deliveryFiles.findAll({ where: { deliveryId: this.row.id, ...where }, order: [['position', 'ASC']] }));
  }

  async change(fields: Partial<DeliveryRow>): Promise<void> {
    await this.inDatabase(async () => {
      await this.row.update(fields);
      await notifyTopic(this.context.database.sequelize, 'deliveries');
    });
  }

  /** What became of a file; where it lies now is on record from then on. */
  async settle(file: DeliveryFileRow, state: DeliveryFileRow['state'], problem: Problem | null = null): Promise<void> {
    const { sequelize } = this.context.database;
    const { place } = this.row;
    await this.inDatabase(() =>
      sequelize.transaction(async (transaction) => {
        await file.update({ state, problem }, { transaction });
        if (place !== null && (state === 'sent' || state === 'kept'))
          await sequelize.query(
            `INSERT INTO delivered (place, path, sha256, bytes) VALUES (:place, :path, :sha256, :bytes)
             ON CONFLICT (place, path) DO UPDATE SET sha256 = excluded.sha256, bytes = excluded.bytes, delivered_at = now()`,
            { replacements: { place, path: file.path, sha256: file.sha256, bytes: file.bytes }, transaction },
          );
        await notifyTopic(sequelize, 'deliveries', transaction);
      }),
    );
  }

  /** Files that have gone together, with what that changes: all of it is written down, or nothing. */
  async settleAll(files: readonly DeliveryFileRow[], fields: Partial<DeliveryRow> = {}): Promise<void> {
    const { sequelize, deliveryFiles } = this.context.database;
    await this.inDatabase(() =>
      sequelize.transaction(async (transaction) => {
        const where = { deliveryId: this.row.id, path: files.map(({ path }) => path) };
        await deliveryFiles.update({ state: 'sent', problem: null }, { where, transaction });
        await this.row.update(fields, { transaction });
        await notifyTopic(sequelize, 'deliveries', transaction);
      }),
    );
  }

  /** A line of the log; lines are written one after the other. */
  say(text: string): Promise<void> {
    // One line that could not be written down keeps none after it from being.
    this.telling = this.telling
      .catch(() => {})
      .then(async () => {
        const log = [...this.row.log, { at: new Date().toISOString(), text }];
        const middle = Math.floor(MOST_LINES / 2);
        await this.change({ log: log.length > MOST_LINES ? [...log.slice(0, middle), ...log.slice(middle + 1)] : log });
      });
    return this.telling;
  }
}
