import { type Master, masterFindings, type Output, Preset, type Run, type StoredPreset, type StoredWatermark } from '@rundle/core';
import type { MasterRow, OutputRow, PresetRow, PresetVersionRow, RunRow, WatermarkRow } from './database/models';

/*
 * From rows to what the HTTP interface says.
 */

export function masterView(row: MasterRow): Master {
  const { id, fileName, position, state, facts, problem } = row;
  return { id, fileName, position, bytes: Number(row.bytes), state, facts, findings: facts ? masterFindings(facts) : [], problem };
}

export function outputView(row: OutputRow): Output {
  const { id, runId, masterId, presetId, presetVersion, state, folder, fileName } = row;
  const { width, height, expectedBytes, bytes, quality, measures, warnings, error } = row;
  return {
    ...{ id, runId, masterId, presetId, presetVersion, state, folder, fileName },
    ...{ width, height, expectedBytes, bytes, quality, measures, warnings, error },
  };
}

export function runView({ id, setId, state, startedAt, finishedAt, presetIds }: RunRow): Run {
  return { id, setId, state, startedAt: startedAt.toISOString(), finishedAt: finishedAt?.toISOString() ?? null, presetIds };
}

export const watermarkView = ({ id, title, kind, text, colour, state, problem }: WatermarkRow): StoredWatermark => ({
  ...{ id, title, kind, text, colour, state, problem },
});

/** Presets are read through the schema, so that fields of later releases get their defaults. */
export function presetView({ id, version, updatedAt }: PresetRow, { body }: PresetVersionRow): StoredPreset {
  return { id, version, preset: Preset.parse(body), updatedAt: updatedAt.toISOString() };
}
