import { createHash } from 'node:crypto';
import {
  COMPARABLE_FROM,
  ENGINE,
  joinPath,
  type MadeFile,
  type Once,
  type StaleReason,
  type Standing,
  type StudioDetails,
} from '@rundle/core';
import type { Database, MadeOf, Outputs } from '@rundle/store';
import { QueryTypes, type Transaction } from 'sequelize';
import type { Targets } from './targets';

/** What an output that would be made now is made of. */
export interface Wanted {
  masterId: string;
  presetId: string;
  version: number;
  /** Its recipe, hashed. @param engine this one, unless it is said */
  recipe: (engine?: number) => string;
  madeOf: MadeOf;
}

interface MadeRow {
  outputId: string;
  target: string;
  folder: string;
  fileName: string;
  masterId: string;
  presetId: string;
  presetVersion: number;
  recipe: string | null;
  engine: number | null;
  madeOf: MadeOf | null;
  width: number;
  height: number;
  bytes: number;
  quality: number | null;
  at: Date;
  remarks: MadeFile['remarks'];
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
  made: ReadonlyMap<string, MadeRow>;
}

/** What was made at the places of a few sets, as it was looked up last. */
const kept = new Map<string, Kept>();
const MOST_KEPT = 30;

/** What was last made at each path of some targets, and what stands there now. */
export class MadeBefore {
  /** Engines of what was looked at and is of an earlier one. */
  private readonly earlier = new Map<string, number>();

  private constructor(
    private readonly made: ReadonlyMap<string, MadeRow>,
    private readonly standing: ReadonlyMap<string, ReadonlyMap<string, number>>,
    private readonly again: boolean,
  ) {}

  /**
   * @param folders below each target in which outputs may stand
   * @param since how old, in ms, a look at the disk may be
   * @param again whether what an earlier engine made is to be made again
   */
  static async of(
    { sequelize }: Database,
    outputs: Outputs,
    { all: targets, folders }: Pick<Targets, 'all' | 'folders'>,
    { since, again }: { since: number; again: boolean },
    transaction?: Transaction,
  ): Promise<MadeBefore> {
    const standing = new Map<string, ReadonlyMap<string, number>>();
    for (const target of targets) standing.set(target, await outputs.standing(target, folders, since));
    const about = {
      type: QueryTypes.SELECT as const,
      replacements: { targets: JSON.stringify(targets) },
      transaction: transaction ?? null,
    };
    const AT = `target IN (SELECT jsonb_array_elements_text(:targets::jsonb)) AND is_newest`;
    // By which rows they are, not by their times alone: two workers may write theirs down in another order than they finished.
    const [now] = await sequelize.query<{ version: string }>(
      `SELECT concat_ws(' ', count(*), sum(hashtext(id::text)::bigint), max(finished_at)) AS version FROM outputs WHERE ${AT}`,
      about,
    );
    const key = targets.join('\n');
    let known = kept.get(key);
    if (known?.version !== now!.version) {
      const rows = await sequelize.query<MadeRow>(
        `SELECT id AS "outputId", target, folder, file_name AS "fileName", master_id AS "masterId", preset_id AS "presetId",
           preset_version AS "presetVersion", recipe, engine, made_of AS "madeOf", width, height, bytes, quality, finished_at AS at, warnings AS remarks
         FROM outputs WHERE ${AT}`,
        about,
      );
      known = { version: now!.version, made: new Map(rows.map((row) => [pathKey(row.target, joinPath(row.folder, row.fileName)), row])) };
      kept.delete(key);
      kept.set(key, known);
      for (const oldest of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(oldest);
    }
    return new MadeBefore(known.made, standing, again);
  }

  /** What stands at a path, for an output that would be made there. */
  at(target: string, path: string, wanted: Wanted): Standing {
    const bytes = this.standing.get(target)?.get(path);
    if (bytes === undefined) return { is: 'free' };
    const made = this.made.get(pathKey(target, path));
    if (!made || made.bytes !== bytes) return { is: 'stranger' };
    const isItsOwn = made.masterId === wanted.masterId && made.presetId === wanted.presetId;
    const isSame = hasRecipe(made, wanted);
    const upToDate = isSame && !(this.again && isOfEarlierEngine(made, wanted));
    const stale = upToDate || !isItsOwn ? null : isSame ? 'engine' : staleBy(made, wanted);
    if (isItsOwn && isOfEarlierEngine(made, wanted)) this.earlier.set(pathKey(target, path), made.engine ?? 0);
    return { is: 'ours', upToDate, stale, made: madeFile(made) };
  }

  /** How many files stand there that an earlier version of a preset made, and the earliest of these versions. */
  ofEarlierVersions(presetId: string, version: number): { files: number; earliest: number } {
    const old = [...this.made.values()].filter((made) => made.presetId === presetId && made.presetVersion < version && this.stands(made));
    return { files: old.length, earliest: Math.min(...old.map((made) => made.presetVersion)) };
  }

  /** Number of the engine that made the file at a path, where this one would make another; null otherwise, or where nothing was planned there. */
  earlierEngine(target: string, path: string): number | null {
    return this.earlier.get(pathKey(target, path)) ?? null;
  }

  private stands({ target, folder, fileName, bytes }: MadeRow): boolean {
    return this.standing.get(target)?.get(joinPath(folder, fileName)) === bytes;
  }
}

const pathKey = (target: string, path: string): string => `${target}\n${path}`;

const madeFile = ({ outputId, width, height, bytes, quality, presetVersion, at, remarks }: MadeRow): MadeFile => ({
  outputId,
  width,
  height,
  bytes,
  quality,
  presetVersion,
  at: at.toISOString(),
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
