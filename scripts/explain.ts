import { join } from 'node:path';
import { mkdirSync, writeFileSync } from 'node:fs';
import { makingBy, type PixelRung, Preset, StudioDetails, type Watermark } from '@rundle/core';
import sharp from 'sharp';
import { endExifTool, readFacts } from '../packages/render/src/index';
import { Sampler } from '../packages/render/src/sample/sampler';
import { ROOT } from './setup/stale.mjs';

/*
 * Makes the small pictures that explain what a rung does: two halves of one place of a demo picture, enlarged twice, by the engine itself.
 */

/** Size of one half before it is enlarged, px. */
const HALF = { width: 90, height: 75 };
const TIMES = 2;
const MARK: Watermark = { kind: 'text', text: '© Lanternfold', colour: '#ffffff', typeface: 'sans', edge: 'shadow', adapt: false };

const sampler = new Sampler(200_000_000);
const folder = join(ROOT, 'apps/web/public/explain');
mkdirSync(folder, { recursive: true });

interface Side {
  preset?: object;
  upTo?: PixelRung;
  /** Whether the profile is left out, so that its numbers are taken for sRGB. */
  unread?: boolean;
}

async function half(fileName: string, at: { x: number; y: number }, { preset = {}, upTo = 'file', unread = false }: Side): Promise<Buffer> {
  const master = join(ROOT, 'demo/masters', fileName);
  const facts = await readFacts(master);
  const { png } = await sampler.look(
    {
      master,
      content: fileName,
      facts,
      studio: StudioDetails.parse({}),
      making: makingBy(facts, Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Explained', ...preset })),
      watermark: MARK,
      upTo,
      overlay: null,
      judged: false,
      view: { kind: 'part', ...at, size: HALF },
    },
    null,
  );
  const read = sharp(png, { ignoreIcc: unread });
  return read
    .toColourspace('srgb')
    .resize(HALF.width * TIMES, HALF.height * TIMES, { kernel: 'nearest', fit: 'fill' })
    .png()
    .toBuffer();
}

async function pair(name: string, fileName: string, at: { x: number; y: number }, left: Side, right: Side): Promise<void> {
  const [one, other] = [await half(fileName, at, left), await half(fileName, at, right)];
  await joined(name, one, other);
}

async function joined(name: string, one: Buffer, other: Buffer): Promise<void> {
  const width = HALF.width * TIMES;
  const both = sharp({ create: { width: 2 * width, height: HALF.height * TIMES, channels: 3, background: '#fff' } }).composite([
    { input: one, left: 0, top: 0 },
    { input: other, left: width, top: 0 },
  ]);
  writeFileSync(join(folder, `${name}.webp`), await both.webp({ quality: 92, smartSubsample: true }).toBuffer());
}

/** A whole picture in a half of its own, by the master's thumbnail size. */
async function whole(fileName: string, edge: number): Promise<Buffer> {
  const box = { width: HALF.width * TIMES, height: HALF.height * TIMES };
  const picture = await sharp(join(ROOT, 'demo/masters', fileName))
    .rotate()
    .toColourspace('srgb')
    .resize({ width: edge, height: edge, fit: 'inside' })
    .toBuffer();
  return sharp(picture)
    .resize({ ...box, fit: 'contain', background: '#e4e3de' })
    .flatten({ background: '#e4e3de' })
    .png()
    .toBuffer();
}

async function beside(name: string, left: [string, number], right: [string, number]): Promise<void> {
  await joined(name, await whole(...left), await whole(...right));
}

const small = { size: { px: 700 } };
const fine = { file: { type: 'png' } };
try {
  await pair(
    'light',
    'LFS_0519.jpg',
    { x: 0.5, y: 0.45 },
    { preset: { size: { px: 260 }, ...fine } },
    { preset: { size: { px: 260, light: 'linear' }, ...fine } },
  );
  await pair(
    'colour',
    'LFS_0418.jpg',
    { x: 0.42, y: 0.55 },
    { preset: { ...small, ...fine } },
    { preset: { ...small, ...fine, colour: { space: 'adobe-rgb' } }, unread: true },
  );
  await pair(
    'sharpen',
    'LFS_0456.jpg',
    { x: 0.5, y: 0.5 },
    { preset: { ...small, ...fine, sharpen: null } },
    { preset: { ...small, ...fine } },
  );
  await pair(
    'mark',
    'LFS_0502.jpg',
    { x: 0.9, y: 0.95 },
    { preset: { size: { px: 420 }, ...fine } },
    { preset: { size: { px: 420 }, ...fine, mark: { watermark: '-', size: 0.3, opacity: 0.85 } } },
  );
  await pair(
    'chroma',
    'LFS_0412.jpg',
    { x: 0.24, y: 0.42 },
    { preset: { ...small, file: { quality: 85, chroma: '4:4:4' } } },
    { preset: { ...small, file: { quality: 85, chroma: '4:2:0' } } },
  );
  await beside('applies', ['LFS_0431.jpg', 180], ['LFS_0456.jpg', 180]);
  await beside('name', ['LFS_0412.jpg', 180], ['LFS_0412.jpg', 180]);
  await beside('folder', ['LFS_0502.jpg', 90], ['LFS_0502.jpg', 180]);
  await beside('metadata', ['LFS_0519.jpg', 180], ['LFS_0519.jpg', 180]);
} finally {
  await sampler.close();
  await endExifTool();
}
