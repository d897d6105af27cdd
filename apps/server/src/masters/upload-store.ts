import { FileStore } from '@tus/file-store';
import { ERRORS, Upload } from '@tus/server';
import { QueryTypes, type Sequelize } from 'sequelize';

/**
 * Uploads on disk that also knows those that have been taken in. Whoever missed the answer to the last part asks how much has come, and
 * must not be told that there is no such upload: it would send all of it again, and the picture would be its own twin.
 */
export class UploadStore extends FileStore {
  constructor(
    private readonly sequelize: Sequelize,
    options: ConstructorParameters<typeof FileStore>[0],
  ) {
    super(options);
  }

  override async getUpload(id: string): Promise<Upload> {
    try {
      return await super.getUpload(id);
    } catch (error) {
      const length = error === ERRORS.FILE_NOT_FOUND || error === ERRORS.FILE_NO_LONGER_EXISTS ? await this.lengthOf(id) : null;
      if (length === null) throw error;
      return new Upload({ id, size: length, offset: length });
    }
  }

  private async lengthOf(id: string): Promise<number | null> {
    // A picture that has been taken out of its set since may be wanted there once more: then it is sent anew.
    const [row] = await this.sequelize.query<{ bytes: string | null }>(
      `SELECT bytes FROM arrivals WHERE upload_id = :id AND (answer -> 'masters' -> 0 IS NULL OR EXISTS (
         SELECT 1 FROM masters WHERE id = (answer -> 'masters' -> 0 ->> 'id')::uuid AND removed_at IS NULL))`,
      { type: QueryTypes.SELECT, replacements: { id: id.slice(0, 200) } },
    );
    return row?.bytes ? Number(row.bytes) : null;
  }
}
