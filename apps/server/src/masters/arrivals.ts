import { join } from 'node:path';
import { ProblemError, type UploadResult } from '@rundle/core';
import { masterView } from '@rundle/store';
import type { FileStore } from '@tus/file-store';
import { QueryTypes } from 'sequelize';
import { HttpProblem, requestProblem } from '../http/problem';
import type { Services } from '../services';
import { addMasters } from './take-in';

/** What an upload says about itself. */
export interface UploadAbout {
  setId: string;
  fileName: string;
  /** Uploads stand in the order of these numbers, whichever is through first. */
  arrival: number | null;
  /** The file's own time, ms since 1970. */
  modified: number | null;
}

/** Brings uploads that are whole into their sets, each once, however often that is asked for. */
export class Arrivals {
  constructor(
    private readonly services: Services,
    private readonly datastore: FileStore,
    private readonly aboutOf: (metadata: Record<string, string | null> | undefined) => UploadAbout,
  ) {}

  /**
   * Takes an upload in, or tells what became of it when it was taken in before.
   * @throws ProblemError, HttpProblem when it is refused for good: then its bytes are gone; anything else may pass, and they stay
   */
  async finish(id: string): Promise<UploadResult> {
    const before = await this.answerOf(id);
    if (before) return before;
    const upload = await this.datastore.getUpload(id);
    if (upload.offset !== upload.size) throw requestProblem('not-whole', 'The file has not come in whole yet. Send the rest first.');
    const about = this.aboutOf(upload.metadata);
    try {
      const stored = await this.services.files.masters.takeIn(join(this.datastore.directory, id), about.fileName);
      const answer = await this.write(id, about, stored, upload.size);
      await this.drop(id);
      return answer;
    } catch (error) {
      if (error instanceof ProblemError || error instanceof HttpProblem) await this.drop(id);
      throw error;
    }
  }

  /** Uploads that were complete when the server or the database stopped: their client may never ask for them again. */
  async finishLeft(): Promise<void> {
    for (const id of (await this.datastore.configstore.list?.()) ?? []) {
      const upload = await this.datastore.getUpload(id).catch(() => null);
      if (!upload || upload.offset !== upload.size) continue;
      await this.finish(id).catch((error: unknown) => this.services.log.warn({ err: error, upload: id }, 'a left upload was not taken in'));
    }
  }

  private write(
    id: string,
    { setId, arrival, modified }: UploadAbout,
    stored: Awaited<ReturnType<Services['files']['masters']['takeIn']>>,
    bytes: number,
  ) {
    const { database, files } = this.services;
    return database.sequelize.transaction(async (transaction): Promise<UploadResult> => {
      // A second request for the same upload waits here for the first, and then finds its answer.
      const first = await database.sequelize.query(
        `INSERT INTO arrivals (upload_id, answer, bytes) VALUES (:id, '{}', :bytes) ON CONFLICT DO NOTHING RETURNING upload_id`,
        { type: QueryTypes.SELECT, transaction, replacements: { id, bytes } },
      );
      if (first.length === 0) return (await this.answerOf(id))!;
      const { rows, twins } = await addMasters(database, setId, [{ ...stored, modified }], 'ask', transaction, arrival);
      // A content without a row may just have been deleted; from here on the lock prevents that.
      if (!(await files.masters.has(stored.sha256))) await files.masters.takeIn(join(this.datastore.directory, id), stored.fileName);
      const answer: UploadResult = { masters: rows.map(masterView), twins };
      await database.sequelize.query('UPDATE arrivals SET answer = :answer::jsonb WHERE upload_id = :id', {
        transaction,
        replacements: { id, answer: JSON.stringify(answer) },
      });
      return answer;
    });
  }

  private async answerOf(id: string): Promise<UploadResult | null> {
    const [row] = await this.services.database.sequelize.query<{ answer: UploadResult }>(
      'SELECT answer FROM arrivals WHERE upload_id = :id',
      {
        type: QueryTypes.SELECT as const,
        replacements: { id: id.slice(0, 200) },
      },
    );
    return row?.answer ?? null;
  }

  private async drop(id: string): Promise<void> {
    await this.datastore
      .remove(id)
      .catch((error: unknown) => this.services.log.warn({ err: error, upload: id }, 'an upload was not cleared away'));
  }
}
