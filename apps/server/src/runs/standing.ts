import { createHash } from 'node:crypto';
import { extname } from 'node:path';
import {
  COMPARABLE_FROM,
  type CurrentFile,
  type EarlierFile,
  ENGINE,
  joinPath,
  type MadeFile,
  type Once,
  type OutputOf,
  outputKey,
  type StaleReason,
  type Standing,
  type StudioDetails,
  type WeightBefore,
} from '@rundle/core';
import { type Database, type MadeOf, type Outputs, statesOf } from '@rundle/store';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Targets } from './targets';

/** What an output that would be made now is made of. */
export interface Wanted extends OutputOf {
  version: number;
  /** Its recipe, hashed. @param engine this one, unless it is said */
  recipe: (engine?: number) => string;
  madeOf: MadeOf;
}

interface MadeRow extends OutputOf {
  id: string;
  target: string;
  folder: string;
  fileName: string;
  presetVersion: number;
  recipe: string | null;
  engine: number | null;
  madeOf: MadeOf | null;
  width: number;
  height: number;
  bytes: number;
  guessedBytes: number;
  quality: number | null;
  finishedAt: Date;
  remarks: MadeFile['remarks'];
  content: string | null;
  mark: string | null;
  isCurrent: boolean;
  isInSet: boolean;
}

/** Of a value in short, to be compared with what it was. */
export const shortOf = (value: unknown): string => createHash('sha256').update(JSON.stringify(value)).digest('hex').slice(0, 16);

/** In short what an output is made of, beside its preset. */
export const madeOf = (master: string, details: StudioDetails, watermark: string | null, once: Once | undefined): MadeOf => ({
  master: master.slice(0, 16),
  details: shortOf(details),
  watermark,
  once: once ? shortOf(once) : '',
});

interface Kept {
  version: string;
  rows: readonly MadeRow[];
}

/** What was made for a few sets, as it was looked up last. */
const kept = new Map<string, Kept>();
const MOST_KEPT = 30;

/** What to look up of a set. */
interface Wish {
  setId: string;
  presetIds: readonly string[];
  /** How old, in ms, a look at the disk may be. */
  since: number;
  /** Whether what an earlier engine made is to be made again. */
  again: boolean;
}

/** What was made before for a set, and what stands where its outputs go. */
export class MadeBefore {
  private readonly current = new Map<string, MadeRow>();
  private readonly byPlace = new Map<string, MadeRow>();

  /** The newest of each output, whether its file still stands or not. */
  private readonly newest = new Map<string, MadeRow>();

  private constructor(
    all: readonly MadeRow[],
    /** Unchanged on the disk, of the presets that were asked for. */
    private readonly made: readonly MadeRow[],
    private readonly marks: ReadonlyMap<string, ReadonlyMap<string, string>>,
    private readonly again: boolean,
  ) {
    for (const row of all) {
      const key = outputKey(row);
      const known = this.newest.get(key);
      if (!known || known.finishedAt < row.finishedAt) this.newest.set(key, row);
    }
    for (const row of made) {
      if (row.isCurrent && row.isInSet) this.current.set(outputKey(row), row);
      this.byPlace.set(pathKey(row.target, joinPath(row.folder, row.fileName)), row);
    }
  }

  static async of(
    { sequelize }: Database,
    outputs: Outputs,
    { all: targets, folders }: Pick<Targets, 'all' | 'folders'>,
    { setId, presetIds, since, again }: Wish,
    transaction?: Transaction,
  ): Promise<MadeBefore> {
    const presets = new Set(presetIds);
    const rows = (await rowsOf(sequelize, setId, transaction)).filter(({ presetId }) => presets.has(presetId));
    const places = new Map(targets.map((target) => [target, new Set(folders)]));
    for (const { target, folder } of rows) places.set(target, (places.get(target) ?? new Set()).add(folder));
    const marks = new Map<string, ReadonlyMap<string, string>>();
    for (const [target, names] of places) marks.set(target, await outputs.standing(target, [...names], since));
    const markAt = (target: string, path: string) => marks.get(target)?.get(path);
    const states = await statesOf(sequelize, outputs, rows, markAt, transaction);
    return new MadeBefore(
      rows,
      rows.filter(({ id }) => states.get(id) === 'stands'),
      marks,
      again,
    );
  }

  /** What stands at a path. @param goes whether files of pictures that were removed make room, and whether older copies do */
  at(target: string, path: string, goes: { removed: boolean; copies: boolean }): Standing {
    if (!this.marks.get(target)?.has(path)) return { is: 'free' };
    const made = this.byPlace.get(pathKey(target, path));
    if (!made) return { is: 'stranger' };
    if (!made.isCurrent) return goes.copies ? { is: 'free' } : { is: 'stranger' };
    if (!made.isInSet) return goes.removed ? { is: 'free' } : { is: 'stranger' };
    return { is: 'current', masterId: made.masterId, presetId: made.presetId, part: made.part };
  }

  /** The file that was made last of a picture by a preset, held against what would be made now; null: none stands there unchanged. */
  currentOf(output: OutputOf, wantedOf: (output: OutputOf) => Wanted): CurrentFile | null {
    const made = this.current.get(outputKey(output));
    if (!made) return null;
    const wanted = wantedOf(output);
    const { target, folder, fileName } = made;
    const isSame = hasRecipe(made, wanted);
    const upToDate = isSame && !(this.again && isOfEarlierEngine(made, wanted));
    const stale = upToDate ? null : isSame ? 'engine' : staleBy(made, wanted);
    return { target, folder, fileName, upToDate, stale, made: madeFile(made) };
  }

  /** What the file weighed that was made last, whether it still stands or not; null: there was none, or one of another type. */
  weightBefore(output: OutputOf, wantedOf: (output: OutputOf) => Wanted, fileName: string): WeightBefore | null {
    const made = this.newest.get(outputKey(output));
    if (!made || extname(made.fileName) !== extname(fileName)) return null;
    return { isSame: hasRecipe(made, wantedOf(output)), bytes: made.bytes, guessedBytes: made.guessedBytes };
  }

  /** All files of the presets that stand unchanged. */
  files(): EarlierFile[] {
    return this.made.map(({ id, masterId, presetId, part, target, folder, fileName, isCurrent, isInSet }) => ({
      outputId: id,
      masterId,
      presetId,
      part,
      target,
      folder,
      fileName,
      isCurrent,
      isInSet,
    }));
  }

  /** How many files stand there that an earlier version of a preset made, and the earliest of these versions. */
  ofEarlierVersions(presetId: string, version: number): { files: number; earliest: number } {
    const old = this.made.filter((made) => made.isInSet && made.presetId === presetId && made.presetVersion < version);
    return { files: old.length, earliest: Math.min(...old.map((made) => made.presetVersion)) };
  }

  /** Number of the engine that made a file that is left as it is, where this one would make another; null otherwise. */
  earlierEngine(wanted: Wanted): number | null {
    const made = this.current.get(outputKey(wanted));
    return made && isOfEarlierEngine(made, wanted) ? (made.engine ?? 0) : null;
  }
}

/** All outputs of a set whose files are their own, those of pictures in its bin, too; looked up anew when one of them has changed. */
async function rowsOf(sequelize: Sequelize, setId: string, transaction?: Transaction): Promise<readonly MadeRow[]> {
  const about = { type: QueryTypes.SELECT as const, replacements: { setId }, transaction: transaction ?? null };
  const OF_SET = `outputs o JOIN masters m ON m.id = o.master_id WHERE m.set_id = :setId AND o.is_newest`;
  const [now] = await sequelize.query<{ version: string }>(
    `SELECT concat_ws(' ', count(*), sum(hashtext(concat(o.id, o.xmin, o.ctid, m.removed_at))::bigint)) AS version FROM ${OF_SET}`,
    about,
  );
  const known = kept.get(setId);
  if (known?.version === now!.version) return known.rows;
  const rows = await sequelize.query<MadeRow>(
    `SELECT o.id, o.target, o.folder, o.file_name AS "fileName", o.master_id AS "masterId", o.preset_id AS "presetId", o.part,
       o.preset_version AS "presetVersion", o.recipe, o.engine, o.made_of AS "madeOf", o.width, o.height, o.bytes, o.quality,
       coalesce(o.guessed_bytes, o.expected_bytes) AS "guessedBytes", o.finished_at AS "finishedAt", o.warnings AS remarks, o.content, o.mark, o.is_current AS "isCurrent", m.removed_at IS NULL AS "isInSet"
     FROM ${OF_SET}`,
    about,
  );
  kept.delete(setId);
  kept.set(setId, { version: now!.version, rows });
  for (const oldest of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(oldest);
  return rows;
}

const pathKey = (target: string, path: string): string => `${target}\n${path}`;

const madeFile = ({ id, width, height, bytes, quality, presetVersion, finishedAt, remarks }: MadeRow): MadeFile => ({
  outputId: id,
  width,
  height,
  bytes,
  quality,
  presetVersion,
  at: finishedAt.toISOString(),
  remarks,
});

/** The engine by which a recipe can be held against one of today: its own, as far back as they are written as now. */
const comparedBy = ({ engine }: MadeRow): number => (engine !== null && engine >= COMPARABLE_FROM ? engine : ENGINE);

/** Whether a file is what would be made now, but for the engine. */
const hasRecipe = (made: MadeRow, wanted: Wanted): boolean => made.recipe !== null && made.recipe === wanted.recipe(comparedBy(made));

/** Whether an engine before this one made it, and this one would make another; untouched copies are the same by all. */
const isOfEarlierEngine = (made: MadeRow, wanted: Wanted): boolean => (made.engine ?? 0) < ENGINE && made.recipe !== wanted.recipe();

/** What has changed since, the first that is found. */
function staleBy(made: MadeRow, { version, madeOf: now }: Wanted): StaleReason {
  if ((made.engine ?? 0) < COMPARABLE_FROM) return 'engine';
  const was = made.madeOf;
  if (was && was.master !== now.master) return 'picture';
  if (made.presetVersion !== version || (was && was.once !== now.once)) return 'preset';
  if (was && was.watermark !== now.watermark) return 'watermark';
  if (was && was.details !== now.details) return 'credit';
  return 'decision';
}
