import { type Delivery, type DeliveryCounts, NewDelivery, Receiver, shownAddress } from '@rundle/core';
import type { Database, DeliveryRow } from '@rundle/store';
import { QueryTypes, type Sequelize } from 'sequelize';

const NO_COUNTS: DeliveryCounts = {
  files: 0,
  made: 0,
  bytes: 0,
  checked: 0,
  sent: 0,
  sentBytes: 0,
  kept: 0,
  left: 0,
  failed: 0,
  removed: 0,
};

/** Deliveries as the HTTP interface tells them, with how far they are; in the order of the rows. */
export async function deliveryViews({ sequelize, receivers }: Database, rows: readonly DeliveryRow[]): Promise<Delivery[]> {
  if (rows.length === 0) return [];
  const counted = await sequelize.query<DeliveryCounts & { id: string }>(
    `SELECT delivery_id AS id, count(*)::int AS files, count(*) FILTER (WHERE output_id IS NULL)::int AS made, sum(bytes)::float8 AS bytes, count(*) FILTER (WHERE state = 'sent')::int AS sent,
       coalesce(sum(bytes) FILTER (WHERE state = 'sent'), 0)::float8 AS "sentBytes", count(*) FILTER (WHERE state = 'kept')::int AS kept,
       count(*) FILTER (WHERE state = 'left')::int AS left, count(*) FILTER (WHERE state = 'failed')::int AS failed
     FROM delivery_files WHERE delivery_id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid) GROUP BY delivery_id`,
    { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(rows.map(({ id }) => id)) } },
  );
  const counts = new Map(counted.map(({ id, ...own }) => [id, own]));
  const renewed = await renewedFiles(sequelize, rows);
  const known = new Map((await receivers.findAll({ where: { deletedAt: null } })).map(({ id, body }) => [id, Receiver.parse(body)]));
  return rows.map((row) => {
    const { id, setId, state, receiver, findings, messages, problem, checked, removed, createdAt, finishedAt, cancelAskedAt } = row;
    const { way, content, gallery } = NewDelivery.parse(row.wish);
    const to = way.kind === 'web' ? known.get(way.receiverId) : undefined;
    const stopping = finishedAt === null && cancelAskedAt !== null;
    return {
      id,
      setId,
      way,
      content,
      gallery,
      state,
      createdAt: createdAt.toISOString(),
      finishedAt: finishedAt?.toISOString() ?? null,
      receiver,
      shownAt: to && way.kind === 'web' ? shownAddress(to, way.folder) : null,
      counts: { ...NO_COUNTS, ...counts.get(id), checked, removed },
      findings,
      messages,
      problem,
      stopping,
      renewed: renewed.get(id) ?? 0,
    };
  });
}

/** How many files of deliveries that can go on have been made anew since: the current one of the same picture, preset and part has another content. */
async function renewedFiles(sequelize: Sequelize, rows: readonly DeliveryRow[]): Promise<ReadonlyMap<string, number>> {
  const ids = rows.filter(({ state }) => state === 'failed' || state === 'cancelled').map(({ id }) => id);
  if (ids.length === 0) return new Map();
  const counted = await sequelize.query<{ id: string; files: number }>(
    `SELECT f.delivery_id AS id, count(*)::int AS files FROM delivery_files f
     JOIN outputs o ON o.id = f.output_id
     JOIN outputs now ON now.master_id = o.master_id AND now.preset_id = o.preset_id AND now.part = o.part AND now.is_current
     WHERE f.delivery_id IN (SELECT jsonb_array_elements_text(:ids::jsonb)::uuid) AND now.id <> o.id AND now.content <> f.sha256
     GROUP BY f.delivery_id`,
    { type: QueryTypes.SELECT, replacements: { ids: JSON.stringify(ids) } },
  );
  return new Map(counted.map(({ id, files }) => [id, files]));
}
