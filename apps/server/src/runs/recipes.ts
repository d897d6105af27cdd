import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { join } from 'node:path';
import { joinPath, type Preset, recipeText, type StudioDetails } from '@rundle/core';
import type { Database, WatermarkRow } from '@rundle/store';
import { QueryTypes } from 'sequelize';

/** The recipe of an output, as it is kept with it: the SHA-256 of its text. */
export function recipeOf(sha256: string, preset: Preset, studio: StudioDetails, watermark: WatermarkRow | null): string {
  // Watermarks are never changed, only replaced by others, so that the id stands for the content.
  return createHash('sha256')
    .update(recipeText({ master: sha256, preset, studio, watermark: watermark?.id ?? null }))
    .digest('hex');
}

/** What was last made at each path of a set's target. */
export class MadeBefore {
  private constructor(
    private readonly target: string,
    private readonly recipes: ReadonlyMap<string, { recipe: string | null; bytes: number }>,
  ) {}

  static async of({ sequelize }: Database, setId: string, target: string): Promise<MadeBefore> {
    const rows = await sequelize.query<{ folder: string; fileName: string; recipe: string | null; bytes: number }>(
      `SELECT DISTINCT ON (o.folder, o.file_name) o.folder, o.file_name AS "fileName", o.recipe, o.bytes
       FROM outputs o JOIN runs r ON r.id = o.run_id
       WHERE r.set_id = :setId AND o.state = 'done'
       ORDER BY o.folder, o.file_name, o.finished_at DESC`,
      { type: QueryTypes.SELECT, replacements: { setId } },
    );
    return new MadeBefore(target, new Map(rows.map((row) => [joinPath(row.folder, row.fileName), row])));
  }

  /** Whether the file at a path was made by this recipe and still has the weight that it had then. */
  holds(path: string, recipe: string): boolean {
    const made = this.recipes.get(path);
    return made?.recipe === recipe && statSync(join(this.target, path), { throwIfNoEntry: false })?.size === made.bytes;
  }
}
