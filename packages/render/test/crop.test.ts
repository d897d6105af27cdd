import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { carriedPreset, type Crop, decisionsFile, inPicture, NO_DECISIONS, viewOfCrop } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, preset, testPicture } from './pictures';

const dir = folder();
const at = (name: string) => join(dir, name);
const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const AS_PNG = { sharpen: null, file: { type: 'png' }, colour: { dither: false } } as const;
const cropped = (crop: Crop, more: Parameters<typeof preset>[0] = {}) =>
  carriedPreset(preset({ ...AS_PNG, ...more }), null, { ...NO_DECISIONS, crop });
const raw = async (path: string) => sharp(path, { ignoreIcc: true }).removeAlpha().raw().toBuffer({ resolveWithObject: true });

afterAll(() => endExifTool());

/** A sea under a sky, whose line leans by some degrees, and runs through the middle. */
async function horizon(path: string, width: number, height: number, degrees: number): Promise<void> {
  const pixels = Buffer.alloc(width * height * 3);
  const slope = Math.tan((degrees * Math.PI) / 180);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const below = y - height / 2 - slope * (x - width / 2);
      const share = Math.min(1, Math.max(0, below + 0.5));
      pixels.fill(Math.round(210 - 150 * share), (y * width + x) * 3, (y * width + x) * 3 + 3);
    }
  await sharp(pixels, { raw: { width, height, channels: 3 } })
    .png()
    .toFile(path);
}

describe('a crop', () => {
  it.each([
    [2.3, 1200, 800],
    [-7.1, 3600, 2400],
  ])('that turns a horizon of %f degrees back leaves it level to 0.05 degrees (%i px long)', async (degrees, width, height) => {
    const master = at(`sea-${width}.png`);
    await horizon(master, width, height, degrees);
    const as = cropped({ x: 0.15, y: 0.15, w: 0.7, h: 0.7, angle: -degrees }, { size: { px: 1000 } });
    const [done] = await doneOf(master, at(`level-${width}`), [as]);
    const { data, info } = await raw(done!.path);
    // Where each column falls through the middle between the two tones, to a fraction of a pixel.
    const edge = Array.from({ length: info.width }, (_, x) => {
      const tone = (y: number) => data[(y * info.width + x) * 3]!;
      const y = Array.from({ length: info.height - 1 }, (_row, row) => row).find((row) => tone(row) >= 135 && tone(row + 1) < 135)!;
      return y + (tone(y) - 135) / (tone(y) - tone(y + 1));
    });
    const mean = edge.reduce((sum, y) => sum + y, 0) / edge.length;
    const middle = (edge.length - 1) / 2;
    const slope = edge.reduce((sum, y, x) => sum + (x - middle) * (y - mean), 0) / edge.reduce((sum, _, x) => sum + (x - middle) ** 2, 0);
    expect(Math.abs((Math.atan(slope) * 180) / Math.PI)).toBeLessThan(0.05);
  });

  it('that is straight, at the size of the master, is those pixels, whatever the orientation of the file', async () => {
    for (const orientation of [1, 6, 8]) {
      const master = at(`turned-${orientation}.png`);
      await testPicture(300, 200).withMetadata({ orientation }).png().toFile(master);
      const upright = await sharp(master).autoOrient().removeAlpha().toBuffer();
      const { width, height } = await sharp(upright).metadata();
      const part = { left: 20, top: 30, width: 101, height: 57 };
      const crop = { x: part.left / width, y: part.top / height, w: part.width / width, h: part.height / height, angle: 0 };
      const [done] = await doneOf(master, at(`part-${orientation}`), [cropped(crop, { size: { fit: 'original' } })]);
      const expected = await sharp(upright, { ignoreIcc: true }).extract(part).raw().toBuffer();
      expect(Buffer.compare((await raw(done!.path)).data, expected)).toBe(0);
    }
  });

  it('of a large master, from its half, is within half a code value on average of the kernel over all of it', async () => {
    const [width, height] = [3600, 2400];
    const master = at('photo.png');
    // Waves of many lengths, as a photograph has them, with little at the finest.
    const tone = (x: number, y: number, c: number) =>
      128 +
      40 * Math.sin(x / 61 + c) * Math.cos(y / 47) +
      25 * Math.sin((x + 2 * y) / 13) +
      8 * Math.sin((3 * x - y) / 5 + c) +
      ((x * 7919 + y * 104729) % 5);
    const pixels = Buffer.alloc(width * height * 3);
    for (let i = 0; i < pixels.length; i++) pixels[i] = Math.round(tone(Math.floor(i / 3) % width, Math.floor(i / 3 / width), i % 3));
    await sharp(pixels, { raw: { width, height, channels: 3 } })
      .png({ compressionLevel: 1 })
      .toFile(master);
    const crop = { x: 0.2, y: 0.2, w: 0.5, h: 0.5, angle: 11 };
    const [done] = await doneOf(master, at('from-half'), [cropped(crop, { size: { px: 400 } })]);
    const { data, info } = await raw(done!.path);
    const view = viewOfCrop({ width, height }, crop);
    const ratio = view.width / info.width;
    let [off, count] = [0, 0];
    for (let y = 3; y < info.height; y += 29)
      for (let x = 3; x < info.width; x += 31) {
        const place = inPicture(view, { x: (x + 0.5) * ratio, y: (y + 0.5) * (view.height / info.height) });
        off += Math.abs(data[(y * info.width + x) * 3]! - lanczos3At(pixels, width, place, ratio));
        count++;
      }
    expect(off / count).toBeLessThan(0.5);
  });
});

/** One value by direct evaluation of Lanczos' kernel, widened by the reduction (Duchon 1979). */
function lanczos3At(pixels: Buffer, width: number, { x, y }: { x: number; y: number }, ratio: number): number {
  const kernel = (d: number) =>
    d === 0 ? 1 : Math.abs(d) >= 3 ? 0 : (3 * Math.sin(Math.PI * d) * Math.sin((Math.PI * d) / 3)) / (Math.PI * d) ** 2;
  let [sum, total] = [0, 0];
  const reach = Math.ceil(3 * ratio);
  for (let row = Math.floor(y) - reach; row <= y + reach; row++)
    for (let column = Math.floor(x) - reach; column <= x + reach; column++) {
      const weight = kernel((column + 0.5 - x) / ratio) * kernel((row + 0.5 - y) / ratio);
      total += weight;
      sum += weight * pixels[(row * width + column) * 3]!;
    }
  return sum / total;
}

describe('decisions that travel', () => {
  const presets = at('feed.preset.json');
  beforeAll(() =>
    writeFileSync(
      presets,
      JSON.stringify({
        kind: 'rundle.preset',
        version: 1,
        title: 'Feed',
        ...AS_PNG,
        size: { px: 200, ratio: { w: 4, h: 5, turn: false } },
      }),
    ),
  );
  const run = (...args: string[]) =>
    spawnSync(process.execPath, [PROGRAM, 'render', '--preset', presets, '--json', ...args], { encoding: 'utf8' });

  it('make the same bytes on the command line; without them the place is proposed, and that is told', async () => {
    const master = at('boats.jpg');
    await testPicture(600, 400).jpeg({ quality: 95 }).toFile(master);
    const ratios = { '4:5': { x: 0.6, y: 0.1, w: 0.35 } };
    const decisions = { ...NO_DECISIONS, ratios };
    const sha256 = createHash('sha256').update(readFileSync(master)).digest('hex');
    const file = at('set.decisions.json');
    writeFileSync(file, JSON.stringify(decisionsFile([{ sha256, fileName: 'boats.jpg', decisions }], new Map())));
    const value = preset({ ...AS_PNG, size: { px: 200, ratio: { w: 4, h: 5, turn: false } } });
    const [mine] = await doneOf(master, at('by-engine'), [carriedPreset(value, null, decisions)]);
    const told = run('--decisions', file, '--out', at('by-file'), master);
    const event = JSON.parse(told.stdout.split('\n')[0]!) as { output: string; warnings: { code: string }[] };
    expect(Buffer.compare((await raw(event.output)).data, (await raw(mine!.path)).data)).toBe(0);
    expect(event.warnings.map(({ code }) => code)).not.toContain('crop-proposed');
    const plain = JSON.parse(run('--out', at('by-itself'), master).stdout.split('\n')[0]!) as typeof event;
    expect(plain.warnings.map(({ code }) => code)).toContain('crop-proposed');
    expect((await raw(plain.output)).info).toMatchObject({ width: 160, height: 200 });
    // Made again with the same decisions, nothing is due; with others it is.
    expect(JSON.parse(run('--decisions', file, '--out', at('by-file'), master).stdout.split('\n')[0]!)).toMatchObject({
      status: 'skipped',
    });
    const others = JSON.stringify(
      decisionsFile([{ sha256, fileName: 'x', decisions: { ...decisions, ratios: { '4:5': { x: 0, y: 0, w: 0.3 } } } }], new Map()),
    );
    writeFileSync(file, others);
    expect(JSON.parse(run('--decisions', file, '--out', at('by-file'), master).stdout.split('\n')[0]!)).toMatchObject({ status: 'done' });
  });

  it('choose a page, on the command line too: each call has the one that it asks for', async () => {
    const master = at('two pages.tif');
    const page = (grey: number) => sharp({ create: { width: 300, height: 200, channels: 3, background: { r: grey, g: grey, b: grey } } });
    const pages = await Promise.all([40, 180].map((grey) => page(grey).png().toBuffer()));
    await sharp(pages, { join: { animated: true } })
      .tiff()
      .toFile(master);
    const sha256 = createHash('sha256').update(readFileSync(master)).digest('hex');
    const file = at('page.decisions.json');
    writeFileSync(file, JSON.stringify(decisionsFile([{ sha256, fileName: 'x', decisions: { ...NO_DECISIONS, page: 2 } }], new Map())));
    const calls = [[], ['--decisions', file], []].map(
      (args) => JSON.parse(run(...args, '--out', at('by-page'), master).stdout.split('\n')[0]!) as { status: string; output: string },
    );
    // The first page has been made before, and stands.
    expect(calls.map(({ status }) => status)).toEqual(['done', 'done', 'skipped']);
    expect(await Promise.all(calls.slice(0, 2).map(async ({ output }) => (await raw(output)).data[0]))).toEqual([40, 180]);
  });

  it('that are wrong are refused by their field, and nothing is written', () => {
    const file = at('wrong.decisions.json');
    writeFileSync(
      file,
      JSON.stringify({ kind: 'rundle.decisions', version: 1, pictures: [{ sha256: 'ff', crop: { x: 0, y: 0, w: 1, h: 1, angle: 60 } }] }),
    );
    const told = run('--decisions', file, '--out', at('nothing'), at('boats.jpg'));
    expect(told.status).toBe(2);
    expect(told.stderr).toContain('pictures.0.sha256');
    expect(told.stderr).toContain('pictures.0.crop.angle');
  });
});
