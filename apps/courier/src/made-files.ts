import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { GALLERY_FILES, galleryPage, type Manifest, MANIFEST_NAME, type ManifestFile, type ManifestPage, zipFiles } from '@rundle/core';
import { type DeliveryFileRow, galleryParts, galleryPictures, newestOutputs, outgoingFiles } from '@rundle/store';
import type { CreationAttributes } from 'sequelize';
import type { Known } from './check-files';
import type { Job } from './job';
import { type WrittenFile, zipPictures } from './picture-zip';

/** What is made: as it is to be written, or what has been written already. */
type Content = Buffer | string | WrittenFile;

/** Makes what goes out beside the pictures: the page of a gallery, a manifest. They go last, so that a page never shows what is not there yet. */
export async function makeFiles(job: Job, known: ReadonlyMap<string, Known>): Promise<void> {
  const made = new Map<string, WrittenFile>();
  if (job.wish.gallery) for (const [path, content] of await galleryFiles(job, known)) made.set(path, await written(job, path, content));
  if (job.wish.content.manifest) {
    const pages = [...made].map(([path, { bytes, sha256 }]) => ({ path, bytes, sha256 }));
    const manifest = await manifestOf(job, known, pages);
    made.set(MANIFEST_NAME, await written(job, MANIFEST_NAME, `${JSON.stringify(manifest, null, 2)}\n`));
  }
  const { deliveryFiles } = job.context.database;
  const rows = [...made].map(([path, { bytes, sha256 }], at): CreationAttributes<DeliveryFileRow> => {
    const none = { outputId: null, target: null, folder: null, fileName: null };
    return { deliveryId: job.row.id, path, position: FIRST_MADE + at, ...none, bytes, sha256 };
  });
  // After a delivery that was broken off: what has gone and is the same still need not go again.
  const before = new Map((await job.files({ outputId: null })).map(({ path, sha256 }) => [path, sha256]));
  const changed = rows.filter(({ path, sha256 }) => before.get(path) !== sha256).map((row) => ({ ...row, state: 'waiting' as const }));
  await job.inDatabase(() => deliveryFiles.bulkCreate(changed, { updateOnDuplicate: ['bytes', 'sha256', 'state'] }));
}

/** Where what is made stands among the files: after all pictures. */
const FIRST_MADE = 1_000_000;

async function written(job: Job, path: string, content: Content): Promise<WrittenFile> {
  if (typeof content === 'object' && !Buffer.isBuffer(content)) return content;
  const bytes = Buffer.from(content);
  const file = join(await job.folder(), path);
  await mkdir(dirname(file), { recursive: true });
  await writeFile(file, bytes);
  return { bytes: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex') };
}

async function galleryFiles(job: Job, known: ReadonlyMap<string, Known>): Promise<[string, Content][]> {
  const { database } = job.context;
  const wish = job.wish.gallery!;
  const going = new Set((await job.files({ state: ['waiting', 'sent', 'kept'] })).map(({ path }) => path));
  const files = outgoingFiles(await job.inDatabase(() => newestOutputs(database, job.row.setId)), job.wish).filter(({ path }) =>
    going.has(path),
  );
  const placeholders = new Map([...known].flatMap(([sha256, { placeholder }]) => (placeholder ? [[sha256, placeholder]] : [])));
  const pictures = await job.inDatabase(() => galleryPictures(database, files, placeholders));
  const zip = wish.downloads === 'all' && pictures.length > 0 ? await zipPictures(job, zipFiles(pictures)) : null;
  const offered = zip && { pictures: pictures.length, bytes: zip.bytes };
  return [
    ...(await galleryParts()),
    ...(zip ? [[GALLERY_FILES.zip, zip] satisfies [string, Content]] : []),
    [GALLERY_FILES.page, galleryPage(wish, pictures, offered)],
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
