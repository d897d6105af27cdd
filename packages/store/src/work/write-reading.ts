import type { MasterFacts } from '@rundle/core';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { MasterRow } from '../database/rows';
import { TELL, toldAs } from '../notice';
import type { Claim } from './claims';
import { QUEUE_ATTEMPTS, WEIGHED_SMALL, workKey } from './queue';

/** What has come of reading a master; what is left out stays as it is. */
export type Reading = Pick<MasterRow, 'state' | 'problem'> &
  Partial<Pick<MasterRow, 'sha256' | 'bytes' | 'sourceMtimeMs'>> & { facts: MasterFacts | null };

/** Where nobody has moved the picture or chosen another page meanwhile, and no picture was removed whose files it could take over. */
const IS_PLAIN = `m.source_path IS NOT DISTINCT FROM :sourcePath AND m.overrides->'page' IS NOT DISTINCT FROM :page::jsonb
  AND (:known OR NOT EXISTS (SELECT FROM masters binned WHERE binned.set_id = m.set_id AND binned.removed_at IS NOT NULL))`;

const WRITE = `WITH picture AS (
    SELECT m.id, ${IS_PLAIN} AS is_plain FROM masters m WHERE m.id = :id FOR UPDATE
  ), mine AS (
    DELETE FROM work WHERE key = :key AND attempt = :attempt AND NOT EXISTS (SELECT FROM picture WHERE NOT is_plain) RETURNING key
  ), changed AS (
    UPDATE masters m SET state = :state, facts = :facts::jsonb, problem = :problem::jsonb, sha256 = coalesce(:sha256, m.sha256),
      bytes = coalesce(:bytes, m.bytes), source_mtime_ms = coalesce(:mtime, m.source_mtime_ms),
      stars = CASE WHEN :stars IS NULL OR m.stars_set THEN m.stars ELSE :stars END, stars_set = m.stars_set OR :stars IS NOT NULL
    FROM picture, mine WHERE m.id = picture.id RETURNING m.id
  ), measuring AS (
    INSERT INTO work (key, name, payload, priority, master_id)
    SELECT :weighKey, 'weigh-master', :weigh::jsonb, ${WEIGHED_SMALL}, id FROM changed WHERE :weighs
    ON CONFLICT DO NOTHING RETURNING key, name, payload, priority
  ), offered AS (
    SELECT graphile_worker.add_job(name, payload::json, job_key := key, max_attempts := ${QUEUE_ATTEMPTS}, priority := priority) FROM measuring
  ), told AS (SELECT ${TELL} FROM changed)
  SELECT coalesce((SELECT is_plain FROM picture), true) AS "isPlain", (SELECT count(*) FROM offered) + (SELECT count(*) FROM told) AS count`;

/**
 * Completes the reading of a master in one call of the database, where there is nothing to decide: a folder of thousands of small pictures is read in
 * less time than the calls of a whole transaction for each of them would take. Its own stars count unless it has got some meanwhile, and it is to be
 * weighed when nothing else is to do.
 * @param master as it was when it was read
 * @returns false: it takes more than this, and nothing was written
 */
export async function writeReading(sequelize: Sequelize, { key, attempt }: Claim, master: MasterRow, found: Reading): Promise<boolean> {
  const { id, setId, sourcePath } = master;
  const { facts, problem, sha256 = null, bytes = null, sourceMtimeMs: mtime = null, state } = found;
  const weigh = { masterId: id, small: true };
  const [row] = await sequelize.query<{ isPlain: boolean }>(WRITE, {
    type: QueryTypes.SELECT,
    replacements: {
      id,
      key,
      attempt,
      sourcePath,
      page: jsonOf(master.overrides.page),
      known: master.sha256 !== null,
      state,
      facts: jsonOf(facts),
      problem: jsonOf(problem),
      sha256,
      bytes,
      mtime,
      stars: state === 'ready' ? (facts?.rating ?? 0) : null,
      weighKey: workKey('weigh-master', weigh),
      weigh: JSON.stringify(weigh),
      weighs: facts?.weighings.length === 0,
      ...toldAs({ about: 'masters', setId, ids: [id] }),
    },
  });
  return row!.isPlain;
}

const jsonOf = (value: unknown): string | null => (value === undefined || value === null ? null : JSON.stringify(value));
