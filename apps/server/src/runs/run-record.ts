import { HouseRules, joinPath, Once, OnceByPreset, Place, Preset, type RunRecord, StudioDetails } from '@rundle/core';
import type { Database, RunRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';

interface Row {
  master: string;
  presetId: string;
  part: string;
  version: number;
  state: RunRecord['outputs'][number]['state'];
  target: string;
  folder: string;
  fileName: string;
  width: number;
  height: number;
  bytes: number | null;
  quality: number | null;
  ms: number | null;
  warnings: RunRecord['outputs'][number]['remarks'];
  error: RunRecord['outputs'][number]['error'];
}

/** Everything that is on record of a run; files are called as they were then, whatever has become of them since. */
export async function recordOf({ sequelize, sets, presetVersions }: Database, run: RunRow): Promise<RunRecord> {
  const rows = await sequelize.query<Row>(
    `SELECT m.file_name AS master, o.preset_id AS "presetId", o.part, o.preset_version AS version, o.state, coalesce(was.from_target, o.target) AS target,
       coalesce(was.from_folder, o.folder) AS folder, coalesce(was.from_name, o.file_name) AS "fileName",
       o.width, o.height, CASE WHEN o.state = 'done' THEN o.bytes END AS bytes, o.quality, o.ms, o.warnings, o.error
     FROM outputs o JOIN masters m ON m.id = o.master_id
     LEFT JOIN LATERAL (SELECT * FROM moves WHERE output_id = o.id AND state = 'settled' ORDER BY written_at LIMIT 1) was ON true
     WHERE o.run_id = :id ORDER BY o.position`,
    { type: QueryTypes.SELECT, replacements: { id: run.id } },
  );
  const once = OnceByPreset.parse(run.once);
  const used = [...new Map(rows.map(({ presetId, version }) => [presetId, version]))];
  const versions = await presetVersions.findAll({ where: { presetId: used.map(([id]) => id) } });
  const titleOf = (id: string, version: number) =>
    Preset.parse(versions.find((row) => row.presetId === id && row.version === version)?.body).title;
  const titles = new Map(used.map(([id, version]) => [id, titleOf(id, version)]));
  const place = Place.parse(run.place);
  /** Files elsewhere than where the set's are shared are told with their whole path. */
  const isWhole = (target: string) => target.startsWith('/') && !(place.kind === 'folder' && place.path === target);
  const house = run.house ? HouseRules.parse(run.house) : null;
  return {
    set: (await sets.findByPk(run.setId))?.title ?? '',
    state: run.state,
    startedAt: run.startedAt.toISOString(),
    finishedAt: run.finishedAt?.toISOString() ?? null,
    place,
    presets: used.map(([id, version]) => ({ title: titles.get(id)!, version, once: once[id] ? Once.parse(once[id]) : null })),
    houseRules: house?.title ?? null,
    creator: run.studio ? StudioDetails.parse(run.studio).creator || null : null,
    outputs: rows.map(({ presetId, target, folder, fileName, warnings, ...row }) => ({
      ...row,
      preset: titles.get(presetId)!,
      file: fileName && joinPath(isWhole(target) ? joinPath(target, folder) : folder, fileName),
      remarks: warnings,
    })),
  };
}
