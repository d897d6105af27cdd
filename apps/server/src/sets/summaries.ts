import { dueLooks, ENGINE, Filter, OnceByPreset, Place, SecondLook, type SetDetail, type SetSummary, StudioDetails } from '@rundle/core';
import type { Database } from '@rundle/store';
import { QueryTypes } from 'sequelize';
import * as z from 'zod';
import { notFound } from '../http/problem';
import { findSet } from './find';

interface Row {
  id: string;
  title: string;
  createdAt: Date;
  pictures: number;
  bytes: string;
  outputs: number;
  running: boolean;
  shelf: SetSummary['shelf'];
  covers: string[] | null;
}

/** The list of sets, newest first, with their figures; one query for all. */
export async function setSummaries({ sequelize }: Database, setId: string | null = null): Promise<SetSummary[]> {
  const rows = await sequelize.query<Row>(
    `SELECT s.id, s.title, s.created_at AS "createdAt",
       CASE WHEN s.deleted_at IS NOT NULL THEN 'bin' WHEN s.archived_at IS NOT NULL THEN 'archive' ELSE 'work' END AS shelf,
       count(m.id)::int AS pictures, coalesce(sum(m.bytes), 0) AS bytes,
       (SELECT count(DISTINCT (o.master_id, o.preset_id, o.part))::int FROM outputs o JOIN masters om ON om.id = o.master_id
         WHERE om.set_id = s.id AND om.removed_at IS NULL AND o.is_newest) AS outputs,
       EXISTS (SELECT 1 FROM runs r WHERE r.set_id = s.id AND r.state IN ('running', 'paused')) AS running,
       (array_agg(m.id ORDER BY m.stars DESC, m.position) FILTER (WHERE m.state = 'ready'))[1:4] AS covers
     FROM sets s LEFT JOIN masters m ON m.set_id = s.id AND m.removed_at IS NULL
     WHERE :setId::uuid IS NULL OR s.id = :setId::uuid
     GROUP BY s.id ORDER BY s.created_at DESC`,
    { type: QueryTypes.SELECT, replacements: { setId } },
  );
  return rows.map((row) => ({ ...row, bytes: Number(row.bytes), createdAt: row.createdAt.toISOString(), covers: row.covers ?? [] }));
}

/**
 * A set with what all who look at it share.
 * @throws HttpProblem 404
 */
export async function setDetail(database: Database, setId: string): Promise<SetDetail> {
  const { filter, presetIds, houseRulesId, rights, place, once, secondLooks, keepsEarlier, copies, remakeBy, revision } = await findSet(
    database,
    setId,
  );
  const [summary] = await setSummaries(database, setId);
  if (!summary) throw notFound('set');
  return {
    ...summary,
    revision,
    filter: Filter.parse(filter),
    presetIds,
    houseRulesId: houseRulesId ?? null,
    rights: StudioDetails.parse(rights),
    place: Place.parse(place),
    once: OnceByPreset.parse(once),
    keepsEarlier,
    copies,
    remake: remakeBy === ENGINE,
    secondLooks: secondLooks.length ? await stillDue(database, z.array(SecondLook).parse(secondLooks)) : [],
  };
}

async function stillDue({ sequelize }: Database, looks: SecondLook[]): Promise<SecondLook[]> {
  const made = await sequelize.query<{ key: string; at: Date | null }>(
    `SELECT master_id || ' ' || preset_id AS key, finished_at AS at FROM outputs
     WHERE is_newest AND master_id IN (SELECT jsonb_array_elements_text(:masterIds::jsonb)::uuid)`,
    { type: QueryTypes.SELECT, replacements: { masterIds: JSON.stringify(looks.map(({ masterId }) => masterId)) } },
  );
  const times = new Map(made.map(({ key, at }) => [key, at?.getTime() ?? null]));
  return dueLooks(looks, ({ masterId, presetId }) => times.get(`${masterId} ${presetId}`) ?? null);
}
