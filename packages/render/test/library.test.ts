import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type Preset, type SampleView, StudioDetails, studioFile, type Watermark } from '@rundle/core';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import type { SampleTask } from '../src/sample/sample';
import { Sampler } from '../src/sample/sampler';
import { doneOf, folder, outsideTags, preset, render, sampleTask, testPicture } from './pictures';

const dir = folder();
afterAll(() => endExifTool());
const PROGRAM = fileURLToPath(new URL('../../../dist/rundle.js', import.meta.url));
const TEXT: Watermark = { kind: 'text', text: '© Lanternfold', colour: '#ffffff', typeface: 'sans', edge: 'none', adapt: false };

async function plain(name: string, background: string): Promise<string> {
  const path = join(dir, `${name}.png`);
  await sharp({ create: { width: 400, height: 300, channels: 3, background } })
    .png()
    .toFile(path);
  return path;
}
const raw = (path: string) => sharp(path, { ignoreIcc: true }).removeAlpha().raw().toBuffer();

describe('an untouched copy', () => {
  it('is the master, byte for byte, and nothing is left when it cannot be written', async () => {
    const master = join(dir, 'master.jpg');
    await testPicture(300, 200).withMetadata({ orientation: 6 }).jpeg().toFile(master);
    const copy = preset({ file: { type: 'original' } });
    const [done] = await doneOf(master, join(dir, 'copies'), [copy]);
    expect(readFileSync(done!.path).equals(readFileSync(master))).toBe(true);
    expect(done).toMatchObject({ width: 200, height: 300, quality: null, measures: { gamut: null, halo: null } });
    writeFileSync(join(dir, 'file'), '');
    expect((await render(master, join(dir, 'file'), [copy]))[0]).toMatchObject({ status: 'failed', error: { code: 'not-written' } });
  });
});

describe('a watermark', () => {
  const drawn = async (master: string, mark: Watermark, name: string) => {
    const as = preset({
      size: { fit: 'original' },
      sharpen: null,
      file: { type: 'png' },
      mark: { watermark: '-', place: 'centre', size: 0.9, margin: 0, opacity: 1 },
    });
    const [done] = await doneOf(master, join(dir, name), [as], StudioDetails.parse({}), mark);
    return raw(done!.path);
  };
  const most = (pixels: Buffer, is: (value: number) => boolean) => pixels.filter(is).length / 3;

  it('of text has all its letters, up to the last one', async () => {
    const pixels = await drawn(await plain('dark', '#202020'), TEXT, 'letters');
    const inked = Array.from({ length: 400 }, (_, x) =>
      Array.from({ length: 300 }, (_row, y) => pixels[(y * 400 + x) * 3]!).some((value) => value > 150),
    );
    const [first, last] = [inked.indexOf(true), inked.lastIndexOf(true)];
    // 0.9 of the short edge, to within the soft edge of a letter.
    expect(last - first + 1).toBeGreaterThanOrEqual(266);
    expect(last - first + 1).toBeLessThanOrEqual(271);
  });

  it('that follows its ground is dark on bright and bright on dark, as text and as a logo of two variants', async () => {
    const adapting: Watermark = { ...TEXT, adapt: true };
    expect(most(await drawn(await plain('bright', '#e8e8e8'), adapting, 'bright'), (value) => value < 60)).toBeGreaterThan(300);
    expect(most(await drawn(await plain('dark', '#202020'), adapting, 'dark'), (value) => value > 200)).toBeGreaterThan(300);
    const box = (colour: string) =>
      new Uint8Array(
        Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 10"><rect width="20" height="10" fill="${colour}"/></svg>`),
      );
    const logo: Watermark = { kind: 'svg', data: box('#ffffff'), dark: box('#000000') };
    expect(most(await drawn(await plain('bright', '#e8e8e8'), logo, 'logo-b'), (value) => value === 0)).toBeGreaterThan(10_000);
    expect(most(await drawn(await plain('dark', '#202020'), logo, 'logo-d'), (value) => value === 255)).toBeGreaterThan(10_000);
  });

  it('has the three typefaces and edges that ship, each another, none with a part missing', async () => {
    const on = await plain('grey', '#707070');
    const looks = new Set<string>();
    for (const typeface of ['sans', 'serif', 'mono'] as const)
      for (const edge of ['none', 'outline', 'shadow'] as const) {
        const pixels = await drawn(on, { ...TEXT, typeface, edge }, `${typeface}-${edge}`);
        looks.add(pixels.toString('base64'));
        expect(most(pixels, (value) => value < 70) > 100, `${typeface} ${edge}`).toBe(edge !== 'none');
      }
    expect(looks.size).toBe(9);
  });
});

describe('what lies over a sample', () => {
  const look = async (value: Preset, overlay: SampleTask['overlay'], view: SampleView) => {
    const master = join(dir, 'edge.png');
    const edge = Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="150"><rect width="200" height="150" fill="#505050"/><rect x="100" width="100" height="150" fill="#c0c0c0"/></svg>',
    );
    await sharp(edge).png().toFile(master);
    const sampler = new Sampler(50_000_000);
    const task = await sampleTask(master, value, { content: 'edge', upTo: 'sharpen', overlay, view });
    const sample = await sampler.look(task, null);
    await sampler.close();
    if (sample.kind !== 'overlay') throw new Error('This is a picture.');
    return { ...sample, pixels: await sharp(sample.png).ensureAlpha().raw().toBuffer() };
  };
  const part = { kind: 'part', x: 0.5, y: 0.5, size: { width: 80, height: 60 } } as const;

  it('outlines the rims of too much sharpening on either side of an edge, and nothing where there are none', async () => {
    const strong = preset({ size: { fit: 'original' }, sharpen: { amount: 3, radius: 2 } });
    const rims = await look(strong, 'halos', part);
    expect(rims).toMatchObject({ width: 80, height: 60, shown: { left: 60, top: 45 } });
    expect(rims.spots).toBeGreaterThan(0.02);
    const columns = Array.from({ length: 80 }, (_, x) => rims.pixels[(30 * 80 + x) * 4 + 3]! > 0);
    expect(columns.slice(0, 25).some(Boolean) || columns.slice(55).some(Boolean)).toBe(false);
    expect(columns.some(Boolean)).toBe(true);
    expect((await look(preset({ size: { fit: 'original' } }), 'gamut', part)).spots).toBe(0);
    expect((await look(preset({ size: { fit: 'original' }, sharpen: null }), 'halos', part)).spots).toBe(0);
  });

  it('fits the whole picture with its border, shown smaller', async () => {
    const value = preset({ size: { fit: 'original' }, sharpen: { amount: 3, radius: 2 }, border: { px: 10 } });
    const whole = await look(value, 'halos', { kind: 'whole', within: { width: 110, height: 85 } });
    expect(whole.width / whole.height).toBeCloseTo(whole.output.width / whole.output.height, 1);
    expect(whole.pixels.some((value2, at) => at % 4 === 3 && value2 > 0)).toBe(true);
  });
});

describe('the command line', () => {
  const bundle = join(dir, 'both.bundle.json');
  const studio = join(dir, 'studio.studio.json');
  const masters = join(dir, 'in');
  const rundle = (...args: string[]) => {
    const { status, stdout, stderr } = spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8', cwd: dir });
    return {
      status,
      stderr,
      done: stdout
        .split('\n')
        .flatMap((line) =>
          line.includes('"done"') && line.includes('"output"') ? [JSON.parse(line) as { output: string; status: string }] : [],
        ),
    };
  };

  it('takes presets out of a bundle with their watermarks, and rights out of a studio file', async () => {
    mkdirSync(masters);
    await testPicture(600, 400).jpeg({ quality: 95 }).toFile(join(masters, 'one.jpg'));
    const said = (title: string, more: object) => ({ kind: 'rundle.preset', version: 1, title, existing: 'replace', ...more });
    const marked = said('Marked', { size: { px: 300 }, folder: 'marked', mark: { watermark: 'mine', opacity: 1 } });
    writeFileSync(
      bundle,
      JSON.stringify({
        kind: 'rundle.bundle',
        version: 1,
        title: 'Both',
        presets: [said('Plain', { size: { px: 300 }, folder: 'plain' }), marked],
        watermarks: [{ id: 'mine', title: 'Mine', mark: { kind: 'rundle.watermark', version: 1, text: '© Me' } }],
      }),
    );
    writeFileSync(studio, JSON.stringify(studioFile(StudioDetails.parse({ creator: 'Ada Quill', copyrightHolder: 'Quill' }))));
    const first = rundle('render', '--bundle', bundle, '--studio', studio, '--out', join(dir, 'bundled'), '--json', masters);
    expect([first.status, first.done.length]).toEqual([0, 2]);
    for (const { output } of first.done) expect(outsideTags(output)).toMatchObject({ 'IFD0:Artist': 'Ada Quill' });

    // The same presets as files of their own make the same files.
    writeFileSync(join(dir, 'mine.watermark.json'), JSON.stringify({ kind: 'rundle.watermark', version: 1, text: '© Me' }));
    writeFileSync(join(dir, 'plain.preset.json'), JSON.stringify(said('Plain', { size: { px: 300 }, folder: 'plain' })));
    writeFileSync(join(dir, 'marked.preset.json'), JSON.stringify({ ...marked, mark: { watermark: 'mine.watermark.json', opacity: 1 } }));
    const second = rundle(
      ...['render', '--preset', 'plain.preset.json', '--preset', 'marked.preset.json', '--studio', studio],
      ...['--out', join(dir, 'single'), '--json', masters],
    );
    expect(second.status).toBe(0);
    for (const [at, { output }] of first.done.entries())
      expect(readFileSync(output).equals(readFileSync(second.done[at]!.output)), output).toBe(true);
  });

  it('says what is wrong with a bundle or a studio file, and writes nothing', () => {
    writeFileSync(
      join(dir, 'bad.bundle.json'),
      JSON.stringify({
        kind: 'rundle.bundle',
        version: 1,
        title: 'X',
        presets: [{ kind: 'rundle.preset', version: 1, title: 'Bad', file: { quality: 0 } }],
      }),
    );
    const bad = rundle('render', '--bundle', 'bad.bundle.json', '--out', join(dir, 'never'), masters);
    expect([bad.status, bad.stderr]).toEqual([2, expect.stringContaining('“Bad”: Quality')]);
    writeFileSync(join(dir, 'bad.studio.json'), JSON.stringify({ kind: 'rundle.studio', version: 1, details: { creator: 3 } }));
    const who = rundle('render', '--bundle', bundle, '--studio', 'bad.studio.json', '--out', join(dir, 'never'), masters);
    expect([who.status, who.stderr]).toEqual([2, expect.stringContaining('Creator')]);
    expect(rundle('render', '--bundle', 'none.json', '--out', 'x', masters).stderr).toContain('--bundle');
  });
});
