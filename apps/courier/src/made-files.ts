import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import {
  GALLERY_FILES,
  galleryPage,
  galleryScript,
  galleryStyle,
  type Manifest,
  MANIFEST_NAME,
  type ManifestFile,
  type ManifestPage,
  pageStyle,
} from '@rundle/core';
import { type DeliveryFileRow, galleryPictures, newestOutputs, outgoingFiles } from '@rundle/store';
import type { CreationAttributes } from 'sequelize';
import type { Known } from './check-files';
import type { Job } from './job';

/** Where the package of the gallery's viewer lies; its plain script is not among what it exports. */
const viewer = dirname(dirname(createRequire(import.meta.url).resolve('photoswipe')));

const VIEWER_FILES: Record<(typeof GALLERY_FILES.viewer)[number], string> = {
  'view/photoswipe.css': 'dist/photoswipe.css',
  'view/photoswipe.umd.min.js': 'dist/umd/photoswipe.umd.min.js',
  'view/photoswipe-lightbox.umd.min.js': 'dist/umd/photoswipe-lightbox.umd.min.js',
};

/** Makes what goes out beside the pictures: the page of a gallery, a manifest. They go last, so that a page never shows what is not there yet. */
export async function makeFiles(job: Job, known: ReadonlyMap<string, Known>): Promise<void> {
  const made = new Map<string, Buffer | string>();
  if (job.wish.gallery) for (const [path, content] of await galleryFiles(job, known)) made.set(path, content);
  if (job.wish.content.manifest) {
    const pages = [...made].map(([path, content]) => ({ path, bytes: Buffer.from(content).length, sha256: sha256Of(content) }));
    made.set(MANIFEST_NAME, `${JSON.stringify(await manifestOf(job, known, pages), null, 2)}\n`);
  }
  const folder = await job.folder();
  const { deliveryFiles } = job.context.database;
  const rows: CreationAttributes<DeliveryFileRow>[] = [];
  let position = 1_000_000;
  for (const [path, content] of made) {
    const bytes = Buffer.from(content);
    await mkdir(dirname(join(folder, path)), { recursive: true });
    await writeFile(join(folder, path), bytes);
    const sha256 = sha256Of(bytes);
    const none = { outputId: null, target: null, folder: null, fileName: null };
    rows.push({ deliveryId: job.row.id, path, position: position++, ...none, bytes: bytes.length, sha256 });
  }
  // After a delivery that was broken off: what has gone and is the same still need not go again.
  const before = new Map((await job.files({ outputId: null })).map(({ path, sha256 }) => [path, sha256]));
  const changed = rows.filter(({ path, sha256 }) => before.get(path) !== sha256).map((row) => ({ ...row, state: 'waiting' as const }));
  await job.inDatabase(() => deliveryFiles.bulkCreate(changed, { updateOnDuplicate: ['bytes', 'sha256', 'state'] }));
}

async function galleryFiles(job: Job, known: ReadonlyMap<string, Known>): Promise<[string, Buffer | string][]> {
  const { database } = job.context;
  const going = new Set((await job.files({ state: ['waiting', 'sent', 'kept'] })).map(({ path }) => path));
  const files = outgoingFiles(await job.inDatabase(() => newestOutputs(database, job.row.setId)), job.wish).filter(({ path }) =>
    going.has(path),
  );
  const placeholders = new Map([...known].flatMap(([sha256, { placeholder }]) => (placeholder ? [[sha256, placeholder]] : [])));
  const pictures = await job.inDatabase(() => galleryPictures(database, files, placeholders));
  const viewerFiles = await Promise.all(
    Object.entries(VIEWER_FILES).map(async ([path, from]): Promise<[string, Buffer]> => [path, await readFile(join(viewer, from))]),
  );
  return [
    ...viewerFiles,
    [GALLERY_FILES.pageStyle, pageStyle()],
    [GALLERY_FILES.style, galleryStyle()],
    [GALLERY_FILES.script, galleryScript()],
    [GALLERY_FILES.page, galleryPage(job.wish.gallery!, pictures)],
  ];
}

async function manifestOf(job: Job, known: ReadonlyMap<string, Known>, pages: ManifestPage[]): Promise<Manifest> {
  const { database } = job.context;
  const rows = await job.files({ state: ['waiting', 'sent', 'kept'] });
  const about = new Map(outgoingFiles(await newestOutputs(database, job.row.setId), job.wish).map(({ path, output }) => [path, output]));
  const files = rows.flatMap((row: DeliveryFileRow): ManifestFile[] => {
    const [seen, output] = [known.get(row.sha256)?.seen, about.get(row.path)];
    if (!seen || !output) return [];
    const { sha256, bytes, type, width, height, coded, quality, likeness, cells } = seen;
    const own = { path: row.path, sha256, bytes, type, width, height, coded, quality, likeness, cells };
    return [
      {
        ...own,
        master: output.masterName,
        preset: output.presetTitle,
        version: output.presetVersion,
        ...(output.part ? { part: output.part } : {}),
      },
    ];
  });
  const set = await job.inDatabase(() => database.sets.findByPk(job.row.setId));
  return { kind: 'rundle.manifest', version: 1, set: set?.title ?? '', madeAt: new Date().toISOString(), files, pages };
}

const sha256Of = (content: Buffer | string): string => createHash('sha256').update(content).digest('hex');
