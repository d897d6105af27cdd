import { createHash } from 'node:crypto';
import { ENGINE, joinPath, type Preset, recipeText, type StudioDetails } from '@rundle/core';
import type { Database, WatermarkRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/** The recipe of an output, as it is kept with it: the SHA-256 of its text. */
export function recipeOf(sha256: string, preset: Preset, studio: StudioDetails, watermark: WatermarkRow | null): string {
  // Watermarks are never changed, only replaced by others, so that the id stands for the content.
  return createHash('sha256')
    .update(recipeText({ master: sha256, preset, studio, watermark: watermark?.id ?? null }))
    .digest('hex');
}

interface StandingOutput {
  recipe: string | null;
  bytes: number;
  engine: number | null;
  presetId: string;
  presetVersion: number;
}

/** What was last made at each path of a target, and what stands there now. */
export class MadeBefore {
  private constructor(
    private readonly made: ReadonlyMap<string, StandingOutput>,
    private readonly standing: ReadonlyMap<string, number>,
  ) {}

  /** @param standing bytes of what stands below the target, by path */
  static async of({ sequelize }: Database, target: string, standing: ReadonlyMap<string, number>): Promise<MadeBefore> {
    const rows = await sequelize.query<StandingOutput & { folder: string; fileName: string }>(
      `SELECT folder, file_name AS "fileName", recipe, bytes, engine, preset_id AS "presetId", preset_version AS "presetVersion" FROM outputs WHERE target = :target AND is_newest`,
      { type: QueryTypes.SELECT, replacements: { target } },
    );
    return new MadeBefore(new Map(rows.map((row) => [joinPath(row.folder, row.fileName), row])), standing);
  }

  /** Whether the file at a path was made by this recipe and still has the weight that it had then. */
  holds(path: string, recipe: string): boolean {
    const made = this.made.get(path);
    return made?.recipe === recipe && this.standing.get(path) === made.bytes;
  }

  /** How many files stand there that an earlier version of a preset made, and the earliest of these versions. */
  ofEarlierVersions(presetId: string, version: number): { files: number; earliest: number } {
    const old = [...this.made].filter(
      ([path, made]) => made.presetId === presetId && made.presetVersion < version && this.standing.get(path) === made.bytes,
    );
    return { files: old.length, earliest: Math.min(...old.map(([, made]) => made.presetVersion)) };
  }

  /** Whether the file at a path was made by an engine before this one. */
  isOfEarlierEngine(path: string): boolean {
    const made = this.made.get(path);
    return made !== undefined && (made.engine ?? 0) < ENGINE && this.standing.get(path) === made.bytes;
  }
}
