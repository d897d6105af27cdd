import {
  Glance,
  type Master,
  type MasterDetail,
  MasterFacts,
  masterFindings,
  NO_OVERRIDES,
  type Output,
  Preset,
  type Run,
  type StoredPreset,
  type StoredWatermark,
  Overrides,
  type VetMaster,
} from '@rundle/core';
import type { MasterRecord } from './load-masters';
import type { MasterRow, OutputRow, PresetRow, PresetVersionRow, RunRow, WatermarkRow } from './database/models';

/*
 * From rows to what the HTTP interface says.
 */

/** Worked out once of the same object; what has changed since comes as another. */
function remembered<From extends object, T>(make: (from: From) => T): (from: From) => T {
  const known = new WeakMap<From, T>();
  return (from) => {
    const value = known.get(from) ?? make(from);
    known.set(from, value);
    return value;
  };
}

const checkedFacts = remembered((facts: MasterFacts) => MasterFacts.parse(facts));

/** The JSON of a master as lists show it: a list of 500 is made from what was made before. */
export const masterJson = remembered((master: MasterRecord) => JSON.stringify(masterView(master)));

export function masterView(row: MasterRecord): Master {
  const { id, fileName, position, state, facts, problem, stars, choice, tags } = row;
  return {
    id,
    fileName,
    position,
    bytes: Number(row.bytes),
    state,
    problem,
    stars,
    choice,
    tags,
    overrides: overridesOf(row),
    content: contentOf(row),
    facts: facts && Glance.parse(facts),
    codes: facts ? masterFindings(facts, fileName).map(({ code }) => code) : [],
  };
}

/** What tells one content of a master from another, short enough for an address; null until it has been read. */
export const contentOf = ({ sha256 }: Pick<MasterRow, 'sha256'>): string | null => sha256?.slice(0, 12) ?? null;

export function masterDetail(row: MasterRow): MasterDetail {
  const facts = row.facts && MasterFacts.parse(row.facts);
  return { ...masterView(row), facts, findings: facts ? masterFindings(facts, row.fileName) : [] };
}

export const overridesOf = ({ overrides }: Pick<MasterRow, 'overrides'>): Overrides =>
  Object.keys(overrides).length ? Overrides.parse(overrides) : NO_OVERRIDES;

/** A master as plans and vetting take it. */
export const vetMaster = remembered((row: MasterRecord): VetMaster => {
  const { id, fileName, state, facts, problem, stars, choice, tags } = row;
  // A file that has vanished since keeps its facts, for when it comes back.
  const read: VetMaster['read'] =
    facts && state !== 'failed'
      ? { ok: true, facts: checkedFacts(facts) }
      : { ok: false, problem: problem ?? { code: 'unreadable', message: 'The picture cannot be read.', file: fileName } };
  // A preset may ask for the photographer's own tags as well as for keywords in the file.
  return { id, fileName, read, stars, choice, tags: [...tags, ...(facts?.keywords ?? [])], overrides: overridesOf(row) };
});

export function outputView(row: OutputRow): Output {
  const { id, runId, masterId, presetId, presetVersion, state, folder, fileName } = row;
  const { width, height, expectedBytes, bytes, quality, measures, warnings, error } = row;
  return {
    id,
    runId,
    masterId,
    presetId,
    presetVersion,
    state,
    folder,
    fileName,
    width,
    height,
    expectedBytes,
    bytes,
    quality,
    measures,
    warnings,
    error,
  };
}

export function runView({ id, setId, state, startedAt, finishedAt, presetIds, cancelAskedAt }: RunRow): Run {
  const times = { startedAt: startedAt.toISOString(), finishedAt: finishedAt?.toISOString() ?? null };
  return { id, setId, state, ...times, presetIds, stopping: state === 'running' && cancelAskedAt !== null };
}

export const watermarkView = ({ id, title, kind, text, colour, state, problem }: WatermarkRow): StoredWatermark => ({
  id,
  title,
  kind,
  text,
  colour,
  state,
  problem,
});

/** Presets are read through the schema, so that fields of later releases get their defaults. */
export function presetView({ id, version, updatedAt }: PresetRow, { body }: PresetVersionRow): StoredPreset {
  return { id, version, preset: Preset.parse(body), updatedAt: updatedAt.toISOString() };
}
