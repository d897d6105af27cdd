import { fileByType, iccProfileOf, Preset } from '@rundle/core';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { AVIF_EFFORT } from '../../packages/render/src/types/avif/avif';
import { WEBP_EFFORT } from '../../packages/render/src/types/webp/webp';
import { Encoder } from '../../packages/render/src/write/encode';
import { pixelFile } from '../../packages/render/src/write/pixel-file';
import { median, ROOT } from './measure';
import type { Row } from './report';

/*
 * What the stage that encodes adds to the encoder: processor time of both in turns, on the same pixels.
 */

const ROUNDS = 5;
const QUALITY = 75;
const TYPES = {
  webp: (image: Sharp) => image.webp({ quality: QUALITY, effort: WEBP_EFFORT, smartSubsample: false }),
  avif: (image: Sharp) => image.avif({ quality: QUALITY, effort: AVIF_EFFORT, chromaSubsampling: '4:2:0' }),
};

/** @param names of demo masters */
export async function encodingStage(names: readonly string[]): Promise<Row[]> {
  sharp.concurrency(1);
  const rows: Row[] = [];
  for (const [type, encode] of Object.entries(TYPES)) {
    const turns: { ours: number; alone: number }[] = [];
    for (let round = 0; round < ROUNDS; round++)
      for (const name of names) {
        const small = sharp(join(ROOT, 'demo/masters', name))
          .resize(2048, 2048, { fit: 'inside' })
          .removeAlpha();
        const { data, info } = await small.raw().toBuffer({ resolveWithObject: true });
        const raster = { width: info.width, height: info.height, channels: 3, pixels: new Uint16Array(0) } as const;
        const alone = await cpu(() => encode(sharp(data, { raw: { ...info, channels: 3 } })).toBuffer());
        const { file: preset } = Preset.parse({
          kind: 'rundle.preset',
          version: 1,
          title: type,
          file: { type, quality: QUALITY, chroma: '4:2:0' },
        });
        const profile = iccProfileOf('srgb');
        const ours = await cpu(async () => {
          const { file, pixels } = pixelFile(raster, 'rgb', 8, profile);
          pixels.set(data);
          const image = { picture: { ...raster, pixels }, model: 'rgb' as const, file, profile, gamut: null, halo: null };
          const settings = fileByType(preset);
          if (settings.type === 'original') throw new Error('A copy is not encoded.');
          await new Encoder(image, settings).encode(QUALITY);
        });
        if (round > 0) turns.push({ ours, alone });
      }
    const figures = turns.map(({ ours, alone }) => ours / alone);
    rows.push({
      what: `Processor time of encoding 2,048 px as ${type === 'webp' ? 'WebP' : 'AVIF'}, all that the stage does`,
      ours: `${median(turns.map(({ ours }) => ours)).toFixed(2)} s`,
      against: `sharp with nothing but the encoder, the same settings: ${median(turns.map(({ alone }) => alone)).toFixed(2)} s`,
      goal: '<= 1.1',
      figures,
      figure: median(figures),
      met: median(figures) <= 1.1,
    });
  }
  return rows;
}

async function cpu(act: () => Promise<unknown>): Promise<number> {
  const before = process.cpuUsage();
  await act();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}
