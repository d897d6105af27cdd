import {
  chosenPage,
  contentOfPage,
  Glance,
  type Master,
  type MasterDetail,
  MasterFacts,
  masterFindings,
  type Decisions,
  NO_DECISIONS,
  type Output,
  Preset,
  type StoredPreset,
  type SavedMark,
  type StoredWatermark,
  type TravellingMark,
  Overrides,
  type VetMaster,
  type Watermark,
} from '@rundle/core';
import type { MasterRecord } from './load-masters';
import type { MasterRow, OutputRow, PresetRow, PresetVersionRow, WatermarkRow } from './database/rows';

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
  const { facts, fileName } = row;
  const codes = facts ? masterFindings(facts, fileName).map(({ code }) => code) : [];
  return { ...aboutMaster(row), codes, ...stateOf(row, facts && Glance.parse(facts)) };
}

const aboutMaster = (row: MasterRecord) => {
  const { id, fileName, position, stars, choice, tags, revision } = row;
  return { id, fileName, position, bytes: Number(row.bytes), stars, choice, tags, overrides: decisionsOf(row), revision };
};

/** What goes with the state; the constraints of the table say the same. */
function stateOf<Facts>(row: Pick<MasterRow, 'state' | 'sha256' | 'problem' | 'overrides'>, facts: Facts | null) {
  const { state, problem } = row;
  const content = contentOf(row);
  switch (state) {
    case 'arriving':
      return { state, content, facts, problem: null };
    case 'ready':
      return { state, content: content!, facts: facts!, problem: null };
    case 'failed':
      return { state, content, facts, problem: problem! };
  }
}

/** What tells one content of a master from another, short enough for an address; null until it has been read. */
export const contentOf = (row: Pick<MasterRow, 'sha256' | 'overrides'>): string | null =>
  row.sha256 && contentOfPage(row.sha256.slice(0, 12), pageOf(row));

/** Which of its pages a picture is, where that is not the first. */
export const pageOf = (row: Pick<MasterRow, 'overrides'>): number | null => chosenPage(decisionsOf(row).page);

export function masterDetail(row: MasterRow): MasterDetail {
  const facts = row.facts && MasterFacts.parse(row.facts);
  const findings = facts ? masterFindings(facts, row.fileName) : [];
  return { ...aboutMaster(row), codes: findings.map(({ code }) => code), findings, ...stateOf(row, facts) };
}

export const decisionsOf = ({ overrides }: Pick<MasterRow, 'overrides'>): Decisions =>
  Object.keys(overrides).length ? Overrides.parse(overrides) : NO_DECISIONS;

/** A master as plans and vetting take it. */
export const vetMaster = remembered((row: MasterRecord): VetMaster => {
  const { id, fileName, state, facts, problem, stars, choice, tags } = row;
  // A file that has vanished since keeps its facts, for when it comes back.
  const read: VetMaster['read'] =
    facts && state !== 'failed'
      ? { ok: true, facts: checkedFacts(facts) }
      : { ok: false, problem: problem ?? { code: 'unreadable', message: 'The picture cannot be read.', file: fileName } };
  // A preset may ask for the photographer's own tags as well as for keywords in the file.
  return { id, fileName, read, stars, choice, tags: [...tags, ...(facts?.keywords ?? [])], decisions: decisionsOf(row) };
});

/** A stored watermark as the engine takes it. */
export function drawableMark({ kind, text, colour, typeface, edge, adapt, data, dark }: WatermarkRow): Watermark {
  if (kind === 'text') return { kind, text: text ?? '', colour: colour ?? '#ffffff', typeface, edge, adapt };
  return { kind, data: new Uint8Array(data ?? []), dark: dark && new Uint8Array(dark) };
}

/** A stored watermark as it travels with presets. */
export function travellingMark({ id, title, kind, text, colour, typeface, edge, adapt, data, dark }: WatermarkRow): TravellingMark {
  const mark: SavedMark =
    kind === 'text'
      ? { kind: 'rundle.watermark', version: 1, text: text ?? '', colour: colour ?? '#ffffff', typeface, edge, adapt }
      : { kind, data: (data ?? Buffer.alloc(0)).toString('base64'), dark: dark && dark.toString('base64') };
  return { id, title, mark };
}

export function outputView(row: OutputRow): Output {
  if (row.state === 'done') return doneOutputView(row);
  const { state, error } = row;
  // A file that is made and not yet in its place is no result yet.
  const notMade = { bytes: null, quality: null, measures: null };
  if (state === 'failed') return { ...aboutOutput(row), ...notMade, state, error: error! };
  return { ...aboutOutput(row), ...notMade, state, error: null };
}

/** An output whose state is done; the constraints of the table say what goes with it. */
export function doneOutputView(row: OutputRow): Extract<Output, { state: 'done' }> {
  const { bytes, quality, measures } = row;
  return { ...aboutOutput(row), state: 'done', bytes: bytes!, quality, measures, error: null };
}

function aboutOutput(row: OutputRow) {
  const { id, runId, masterId, presetId, part, presetVersion, target, folder, fileName, width, height, expectedBytes, warnings, ms } = row;
  return { id, runId, masterId, presetId, part, presetVersion, target, folder, fileName, width, height, expectedBytes, warnings, ms };
}

export function watermarkView({
  id,
  title,
  kind,
  text,
  colour,
  typeface,
  edge,
  adapt,
  dark,
  state,
  problem,
}: WatermarkRow): StoredWatermark {
  return { id, title, kind, text, colour, typeface, edge, adapt: adapt || dark !== null, state, problem };
}

/** Presets are read through the schema, so that fields of later releases get their defaults. */
export function presetView({ id, version, updatedAt, groupName, favourite }: PresetRow, { body }: PresetVersionRow): StoredPreset {
  return { id, version, preset: Preset.parse(body), updatedAt: updatedAt.toISOString(), group: groupName, favourite };
}
