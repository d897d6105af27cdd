import { QueryTypes } from 'sequelize';
import type { Database } from '../database/connection';
import type { OutputRow } from '../database/rows';

export interface NewestOutput extends OutputRow {
  presetTitle: string;
  masterName: string;
  masterBytes: number;
  /** Whether it is on its way to another name or place. */
  isMoving: boolean;
  /** Order of its master in the set. */
  place: number;
}

/** For each master, preset and part of a set the current output, or else the newest whose file is still its own, in the order of the set. */
export async function newestOutputs({ sequelize }: Database, setId: string): Promise<NewestOutput[]> {
  return sequelize.query<NewestOutput>(
    `SELECT * FROM (
       SELECT DISTINCT ON (o.master_id, o.preset_id, o.part)
         o.id, o.run_id AS "runId", o.master_id AS "masterId", o.preset_id AS "presetId", o.part, o.preset_version AS "presetVersion",
         o.state, o.target, o.folder, o.file_name AS "fileName", o.width, o.height, o.expected_bytes AS "expectedBytes",
         o.bytes, o.quality, o.ms, o.measures, o.warnings, o.error, o.position, o.content, o.mark, o.finished_at AS "finishedAt",
         EXISTS (SELECT FROM moves w WHERE w.output_id = o.id AND w.state = 'taken') AS "isMoving",
         v.body->>'title' AS "presetTitle", m.file_name AS "masterName", m.bytes::float8 AS "masterBytes", m.position AS place
       FROM outputs o
       JOIN masters m ON m.id = o.master_id
       JOIN preset_versions v ON v.preset_id = o.preset_id AND v.version = o.preset_version
       WHERE m.set_id = :setId AND m.removed_at IS NULL AND o.is_newest
       ORDER BY o.master_id, o.preset_id, o.part, o.is_current DESC, o.finished_at DESC
     ) newest ORDER BY folder, place, position`,
    { type: QueryTypes.SELECT, replacements: { setId } },
  );
}
