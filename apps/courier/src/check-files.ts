import { createHash } from 'node:crypto';
import { Cells, type FileFinding, finding, houseFindings, isHouseCode, SeenFile, type SpaceName } from '@rundle/core';
import { lookAt } from '@rundle/render';
import type { DeliveryFileRow } from '@rundle/store';
import { Op, QueryTypes } from 'sequelize';
import * as z from 'zod';
import type { Job } from './job';
import { fileChanged } from './source';

/** What is remembered of a file, by its content. */
const Seen = SeenFile.extend({ space: z.string().nullable(), cells: Cells });
export interface Known {
  seen: z.infer<typeof Seen>;
  placeholder: string | null;
}

/**
 * Opens every file that is to go out, and holds it against what it was when it was made and against the house rules of the receiver. What is
 * not there any more, or was changed, is left out; what breaks a rule is told.
 * @returns what was found, and what is known of each file by its content
 */
export async function checkFiles(job: Job): Promise<{ findings: FileFinding[]; known: Map<string, Known> }> {
  const rows = await job.files({ state: 'waiting' });
  const { manifest } = job.wish.content;
  const isLookedAt = job.row.house !== null || manifest || job.wish.gallery !== null;
  // Of those that have gone before an interruption, too: a page or a manifest tells all.
  const known = isLookedAt ? await knownFiles(job, await job.files()) : new Map<string, Known>();
  const findings: FileFinding[] = [];
  // After an interruption only the others are checked.
  const progress = new Progress(
    job,
    (await job.files({ outputId: { [Op.ne]: null } })).length - rows.filter(({ outputId }) => outputId !== null).length,
  );
  for (const row of rows) {
    job.goOn();
    if (row.outputId === null) continue;
    await progress.tell();
    const file = await contentOf(job, row);
    if (!file) {
      await job.settle(row, 'failed', fileChanged(row));
      continue;
    }
    if (row.sha256 === '') await job.inDatabase(() => row.update({ sha256: file.sha256, bytes: file.bytes.length }));
    if (isLookedAt && !known.has(file.sha256)) {
      const looked = await look(job, row.path, file.bytes);
      if (looked) known.set(file.sha256, looked);
    }
    findings.push(...housesFindings(job, row, known.get(file.sha256)));
  }
  return { findings, known };
}

/** How often it is told how far the check is, ms. */
const PROGRESS_MS = 500;

/** Tells how many files have been checked. */
class Progress {
  private toldAt = 0;

  /** @param checked how many have been before */
  constructor(
    private readonly job: Job,
    private checked: number,
  ) {}

  /** To be called before each file. */
  async tell(): Promise<void> {
    const { checked } = this;
    this.checked++;
    if (performance.now() - this.toldAt < PROGRESS_MS) return;
    this.toldAt = performance.now();
    await this.job.change({ checked });
  }
}

/** The file as it stands; null: it is not what was made. */
async function contentOf({ context }: Job, row: DeliveryFileRow): Promise<{ bytes: Buffer; sha256: string } | null> {
  const { target, folder, fileName } = row;
  const opened = await context.files.outputs.open({ target: target!, folder: folder!, fileName: fileName! });
  if (!opened) return null;
  const bytes = await opened.readAll();
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  // Outputs of the first releases have no content on record.
  return row.sha256 === '' || sha256 === row.sha256 ? { bytes, sha256 } : null;
}

async function look(job: Job, path: string, file: Buffer): Promise<Known | null> {
  const looked = await lookAt(path, file);
  if (!looked) return null;
  const { seen, space, placeholder } = looked;
  const known: Known = { seen: Seen.parse({ ...seen, space }), placeholder };
  await job.inDatabase(() =>
    job.context.database.sequelize.query(
      'INSERT INTO seen_files (sha256, seen, placeholder) VALUES (:sha256, :seen, :placeholder) ON CONFLICT (sha256) DO UPDATE SET seen = excluded.seen',
      {
        replacements: { sha256: seen.sha256, seen: JSON.stringify(known.seen), placeholder },
      },
    ),
  );
  return known;
}

async function knownFiles(job: Job, rows: readonly DeliveryFileRow[]): Promise<Map<string, Known>> {
  const found = await job.inDatabase(() =>
    job.context.database.sequelize.query<{ sha256: string; seen: unknown; placeholder: string | null }>(
      'SELECT sha256, seen, placeholder FROM seen_files WHERE sha256 IN (SELECT jsonb_array_elements_text(:all::jsonb))',
      { type: QueryTypes.SELECT, replacements: { all: JSON.stringify(rows.map(({ sha256 }) => sha256)) } },
    ),
  );
  return new Map(
    found.flatMap(({ sha256, seen, placeholder }) => {
      const parsed = Seen.safeParse(seen); // of an earlier release it may not say all that is wanted by now
      return parsed.success ? [[sha256, { seen: parsed.data, placeholder }] as const] : [];
    }),
  );
}

function housesFindings(job: Job, row: DeliveryFileRow, known: Known | undefined): FileFinding[] {
  const { house } = job.row;
  if (!house) return [];
  if (!known)
    return [
      {
        path: row.path,
        finding: finding('house-type', `${house.title} cannot be asked about ${row.path}: it is no picture that can be opened.`),
      },
    ];
  const { seen } = known;
  const space = (seen.space as SpaceName | null) ?? 'keep';
  return houseFindings(house, seen, { bytes: seen.bytes, expected: false }, { file: { type: seen.type }, colour: { space } })
    .filter(({ code }) => isHouseCode(code))
    .map((one) => ({ path: row.path, finding: one }));
}
