import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import { type CarriedPreset, FILE_TYPES, makingBy, Preset, type PresetInput, problemOf, StudioDetails, type Watermark } from '@rundle/core';
import type { Sample, SampleTask } from '../src/sample/sample';
import sharp, { type Sharp } from 'sharp';
import { readFacts } from '../src/read/facts';
import { type OutputResult, renderMaster } from '../src/render-master';
import { asideOf, putFileOrDrop } from '@rundle/place';

export const folder = (): string => mkdtempSync(join(tmpdir(), 'rundle-test-'));

export const preset = (more: Partial<PresetInput> = {}): Preset =>
  Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Test', ...more });

/** A picture with an unmistakable top left corner, colours and fine detail. */
export function testPicture(width: number, height: number): Sharp {
  const pixels = Buffer.alloc(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 3;
      const corner = x < width / 4 && y < height / 4;
      pixels[at] = corner ? 250 : (255 * x) / width;
      pixels[at + 1] = corner ? 20 : (255 * y) / height;
      pixels[at + 2] = 128 + 60 * Math.sin(x / 3) * Math.cos(y / 5);
    }
  return sharp(pixels, { raw: { width, height, channels: 3 } });
}

/** Where the file of an output is made, and where it goes. */
export function aside(target: string, folder: string, fileName: string) {
  const place = join(target, folder, fileName);
  return { place, to: asideOf(place), fileName };
}

/** Renders one master by presets in this thread and returns what came of each. */
export async function render(
  master: string,
  target: string,
  presets: CarriedPreset[],
  studio = StudioDetails.parse({}),
  watermark: Watermark | null = null,
): Promise<OutputResult[]> {
  const facts = await readFacts(master);
  const results: OutputResult[] = [];
  const outputs = presets.map((value, index) => ({
    id: String(index),
    making: makingBy(facts, value),
    watermark,
    ...aside(target, value.folder, `out-${index}.${FILE_TYPES[value.file.type].extension}`),
  }));
  await renderMaster(
    { master, content: master, modified: null, facts, studio, outputs },
    () => {},
    (result) => results.push(result),
  );
  for (const [at, result] of results.entries()) {
    const { place } = outputs.find(({ id }) => id === result.id)!;
    if (result.status === 'failed') continue;
    await putFileOrDrop(result.path, place, { mayReplace: () => false }).then(
      () => (results[at] = { ...result, path: place }),
      (error: unknown) => (results[at] = { id: result.id, status: 'failed', error: problemOf(error) }),
    );
  }
  // Results come as they are made, the largest first.
  return results.sort((a, b) => Number(a.id) - Number(b.id));
}

/** The same, all of which have to be done. */
export const doneOf = async (...call: Parameters<typeof render>) => {
  const results = await render(...call);
  return results.map((result) => {
    if (result.status !== 'done') throw new Error(JSON.stringify(result));
    return result;
  });
};

/** What Debian's exiftool, a reader from outside the project, says of a file: keys are `Group:Tag`. */
export function outsideTags(path: string): Record<string, unknown> {
  const [tags] = JSON.parse(execFileSync('/usr/bin/exiftool', ['-json', '-G1', '-a', path], { encoding: 'utf8' })) as Record<
    string,
    unknown
  >[];
  return tags ?? {};
}

/** A look at what a preset makes of a master. */
export async function sampleTask(master: string, value: CarriedPreset, more: Partial<SampleTask> = {}): Promise<SampleTask> {
  const facts = await readFacts(master);
  return {
    master,
    content: master,
    facts,
    studio: StudioDetails.parse({}),
    making: makingBy(facts, value),
    watermark: null,
    upTo: 'file',
    overlay: null,
    judged: false,
    view: { kind: 'part', x: 0.5, y: 0.5, size: { width: 80, height: 60 } },
    ...more,
  };
}

/** A look that has come to a picture. */
export function pictureOf(sample: Sample): Extract<Sample, { kind: 'picture' }> {
  if (sample.kind !== 'picture') throw new Error('This is an overlay.');
  return sample;
}
