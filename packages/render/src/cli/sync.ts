import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import {
  type CurrentFile,
  type EarlierFile,
  joinPath,
  jsonOrNull,
  MANIFEST_NAME,
  type ManifestFile,
  type OutputOf,
  outputKey,
  type Move,
  movesOf,
  parseManifestText,
  type PlannedOutput,
  type PlanMaster,
  type PlanRequest,
} from '@rundle/core';
import { asideOf, isContent, isWithin, putFile } from '@rundle/place';
import * as z from 'zod';
import type { ReadyPreset } from './call';
import { Report } from './report';

/** What has been taken from its place and not come to its new one yet: a call that was cut off is completed by the next. */
const JOURNAL = '.rundle-sync.json';
const Step = z.object({ aside: z.string(), from: z.string(), to: z.string() });
export type Step = z.infer<typeof Step>;
const Journal = z.array(Step);

/** What the call before made in a target folder, as far as nobody has changed it: it gives way to what this one makes. */
export class Sync {
  private constructor(
    private readonly out: string,
    private readonly files: readonly (EarlierFile & { bytes: number })[],
  ) {}

  /**
   * Reads the manifest of the call before, and holds each file against its hash.
   * @param out the target folder, absolute
   */
  static async of(out: string, masters: readonly PlanMaster[], presets: readonly ReadyPreset[]): Promise<Sync> {
    await completeJournal(out);
    const path = join(out, MANIFEST_NAME);
    if (!existsSync(path)) {
      Report.note(
        `There is no ${MANIFEST_NAME} of a call before in ${out}, so that nothing is renamed or taken away; this call writes one.`,
      );
      return new Sync(out, []);
    }
    const parsed = parseManifestText(readFileSync(path, 'utf8'));
    if (!parsed.ok) {
      Report.problem({ code: 'manifest-field', file: path, message: 'It cannot be read, so that nothing is renamed or taken away.' });
      return new Sync(out, []);
    }
    const files: (EarlierFile & { bytes: number })[] = [];
    for (const file of parsed.value.files) {
      if (!isWithin(resolve(out, file.path), out) || !(await isContent(join(out, file.path), file.sha256))) continue;
      files.push({ ...cellOf(file, masters, presets), ...placeOf(file.path), outputId: file.path, isCurrent: true, bytes: file.bytes });
    }
    return new Sync(out, files);
  }

  /**
   * What the planner has to know of these files.
   * @param isUpToDate whether the file at a path is what would be made now
   */
  request(isUpToDate: (path: string, output: OutputOf) => boolean): Pick<PlanRequest, 'current' | 'earlier'> {
    const byCell = new Map(this.files.map((file) => [outputKey(file), file]));
    return {
      earlier: 'go',
      current: (output): CurrentFile | null => {
        const file = byCell.get(outputKey(output));
        if (!file) return null;
        const { target, folder, fileName, bytes, outputId } = file;
        const upToDate = isUpToDate(outputId, output);
        const made = { outputId, width: 0, height: 0, bytes, quality: null, presetVersion: 1, at: '', remarks: [] };
        return { target, folder, fileName, upToDate, stale: null, made };
      },
    };
  }

  /** What stands at a path, where the call before made it. */
  at(path: string): ({ is: 'current' } & OutputOf) | { is: 'free' } | null {
    const file = this.files.find(({ outputId }) => outputId === path);
    if (!file) return null;
    const { masterId, presetId, part, isInSet } = file;
    return isInSet ? { is: 'current', masterId, presetId, part } : { is: 'free' };
  }

  /** What becomes of them by a plan. */
  moves(outputs: readonly PlannedOutput[]): Move[] {
    return movesOf(outputs, this.files, true);
  }

  /**
   * Renames what has another name now, and takes away what is in the way.
   * @param renamed told of all that get another name, before they have it
   * @returns what was done
   */
  async before(moves: readonly Move[], renamed: (steps: readonly Step[]) => void): Promise<Move[]> {
    const first = moves.filter(({ when }) => when === 'first');
    for (const { file } of first.filter(({ to }) => to === null)) await rm(join(this.out, file.outputId), { force: true });
    const steps = first.flatMap(({ file, to }) =>
      to === null ? [] : [{ aside: asideOf(join(this.out, file.outputId)), from: file.outputId, to: joinPath(to.folder, to.fileName) }],
    );
    if (steps.length) writeFileSync(join(this.out, JOURNAL), JSON.stringify(steps));
    for (const { aside, from } of steps) await rename(join(this.out, from), aside);
    renamed(steps);
    await completeJournal(this.out);
    return first;
  }

  /**
   * Takes away what this call no longer makes.
   * @param isMade whether the newer self of a file has been made
   * @returns what was done
   */
  async after(moves: readonly Move[], isMade: (file: EarlierFile) => boolean): Promise<Move[]> {
    const last = moves.filter(({ file, when, afterSelf }) => when === 'last' && (!afterSelf || isMade(file)));
    for (const { file } of last) await rm(join(this.out, file.outputId), { force: true });
    return last;
  }
}

/** Puts what was taken from its place where it belongs; where something stands there by now, beside it. */
async function completeJournal(out: string): Promise<void> {
  const journal = join(out, JOURNAL);
  const steps = existsSync(journal) ? Journal.safeParse(jsonOrNull(readFileSync(journal, 'utf8'))) : null;
  for (const { aside, to } of steps?.data ?? []) {
    for (let copy = 1; existsSync(aside); copy++) {
      const place = join(out, copy === 1 ? to : numbered(to, copy));
      await mkdir(dirname(place), { recursive: true });
      await putFile(aside, place, { mayReplace: () => false }).catch((error: unknown) => {
        if (!existsSync(place)) throw error;
      });
    }
  }
  rmSync(journal, { force: true });
}

const numbered = (path: string, copy: number): string => {
  const extension = extname(path);
  return `${path.slice(0, path.length - extension.length)}-${copy}${extension}`;
};

/** The picture and the preset of this call that made a file, by their names. */
function cellOf({ master, preset, part = '' }: ManifestFile, masters: readonly PlanMaster[], presets: readonly ReadyPreset[]) {
  const of = masters.find(({ fileName }) => fileName === master);
  const by = presets.findIndex((one) => one.preset.title === preset);
  return { masterId: of?.id ?? '', presetId: by === -1 ? '' : String(by), part, isInSet: of !== undefined && by !== -1 };
}

const placeOf = (path: string) => ({ target: '', folder: dirname(path) === '.' ? '' : dirname(path), fileName: basename(path) });
