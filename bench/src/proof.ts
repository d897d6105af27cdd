import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { addressOf, type MasterPage, planesOf, Preset, type SetDetail, stripOf, visibleDifference } from '@rundle/core';
import sharp from 'sharp';
import { Application } from '../../e2e/src/application';
import { call as callOf } from '../../e2e/src/new-set';
import { figureRow, median, ROOT, work } from './measure';
import { debianPictures } from './pictures';
import type { Row } from './report';

/*
 * Proof: how soon a test strip is there, and whether the visible difference agrees with two programs from outside. On photographs that Debian ships.
 */

const PHOTOGRAPHS = 20;
const QUALITIES = [25, 35, 45, 55, 65, 75, 82, 88, 93, 97];
/** Long edge at which they are judged, px. */
const EDGE = 1024;

/** What each judge says of a file: the more, the more is seen. */
interface Judged {
  photograph: number;
  own: number;
  ssimulacra: number;
  butteraugli: number;
}

/** The visible difference against programs from outside. */
export async function judges(): Promise<Row[]> {
  const judged = await judgedFiles();
  const own = judged.map((file) => file.own);
  const perPhotograph = (judge: 'ssimulacra' | 'butteraugli') =>
    Math.min(
      ...Array.from({ length: PHOTOGRAPHS }, (_, photograph) => {
        const files = judged.filter((file) => file.photograph === photograph);
        return rankCorrelation(
          files.map((file) => file.own),
          files.map((file) => file[judge]),
        );
      }),
    );
  const pooled = (judge: 'ssimulacra' | 'butteraugli') =>
    rankCorrelation(
      own,
      judged.map((file) => file[judge]),
    );
  const what = `The visible difference over ${PHOTOGRAPHS} photographs at ${QUALITIES.length} qualities, rank correlation with`;
  const least = (goal: number) => [`>= ${goal}`, (figure: number) => figure >= goal] as const;
  return [
    figureRow(`${what} SSIMULACRA, the least of a photograph`, perPhotograph('ssimulacra'), ...least(0.95)),
    figureRow(`${what} butteraugli, the least of a photograph`, perPhotograph('butteraugli'), ...least(0.95)),
    figureRow(`${what} SSIMULACRA, all together`, pooled('ssimulacra'), ...least(0.9)),
    figureRow(`${what} butteraugli, all together`, pooled('butteraugli'), ...least(0.8)),
  ];
}

async function judgedFiles(): Promise<Judged[]> {
  execFileSync('apt-get', ['install', '-y', 'libjxl-devtools'], { stdio: 'ignore' });
  const all = (await debianPictures()).filter((path) => /\.jpe?g$/i.test(path));
  const judged: Judged[] = [];
  const [before, after] = [join(work, 'before.png'), join(work, 'after.png')];
  for (let photograph = 0; photograph < PHOTOGRAPHS; photograph++) {
    const path = all[Math.floor((photograph * all.length) / PHOTOGRAPHS)]!;
    const opened = sharp(path).resize({ width: EDGE, height: EDGE, fit: 'inside' }).toColourspace('srgb').removeAlpha();
    const { data, info } = await opened.raw().toBuffer({ resolveWithObject: true });
    const { width, height } = info;
    const raw = { raw: { width, height, channels: 3 as const } };
    await sharp(data, raw).png({ compressionLevel: 1 }).toFile(before);
    for (const quality of QUALITIES) {
      const jpeg = await sharp(data, raw)
        .jpeg({ quality, chromaSubsampling: quality >= 90 ? '4:4:4' : '4:2:0' })
        .toBuffer();
      const pixels = await sharp(jpeg).removeAlpha().raw().toBuffer();
      await sharp(pixels, raw).png({ compressionLevel: 1 }).toFile(after);
      const say = (program: string) =>
        parseFloat(execFileSync(program, [before, after], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] }));
      const own = visibleDifference(planesOf({ width, height, pixels: data }), planesOf({ width, height, pixels }));
      judged.push({ photograph, own: own.difference, ssimulacra: say('ssimulacra_main'), butteraugli: say('butteraugli_main') });
    }
  }
  return judged;
}

/** Spearman's rank correlation of two lists (C. Spearman 1904); equal values are as good as never there. */
function rankCorrelation(a: readonly number[], b: readonly number[]): number {
  const [x, y] = [ranks(a), ranks(b)];
  const middle = (a.length - 1) / 2;
  const sum = (value: (at: number) => number) => a.reduce((total, _, at) => total + value(at), 0);
  return sum((at) => (x[at]! - middle) * (y[at]! - middle)) / sum((at) => (x[at]! - middle) ** 2);
}

function ranks(values: readonly number[]): number[] {
  const order = [...values.keys()].sort((a, b) => values[a]! - values[b]!);
  const out: number[] = [];
  for (const [rank, at] of order.entries()) out[at] = rank;
  return out;
}

/** Fourteen JPEG qualities at 2,048 px, as the page asks for them; the master has been decoded. */
export async function strip(): Promise<Row[]> {
  const application = await Application.start(join(ROOT, 'demo/masters'));
  try {
    const call = <T>(method: string, path: string) => callOf<T>(application, method, path);
    const sets = await call<SetDetail[]>('GET', '/api/sets');
    const set = sets.find(({ title }) => title === 'Lantern evening at Emberquay')!;
    let masterId: string | undefined;
    for (; !masterId; await new Promise((resolve) => setTimeout(resolve, 500))) {
      const { masters } = await call<MasterPage>('GET', `/api/sets/${set.id}/masters`);
      if (masters.every(({ state }) => state !== 'arriving')) masterId = masters[0]?.id;
    }
    const { tiles } = stripOf(Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Strip', size: { px: 2048 } }), 'quality', null);
    const [first, whole]: [number[], number[]] = [[], []];
    for (let time = 0; time < 6; time++) {
      // Another place each time, so that nothing is known of it.
      const view = { kind: 'part', x: 0.2 + 0.1 * time, y: 0.5, size: { width: 226, height: 160 } };
      const begun = performance.now();
      const waiting = [...tiles];
      let isFirst = true;
      const work = async () => {
        for (let tile = waiting.shift(); tile; tile = waiting.shift()) {
          const body = JSON.stringify({ preset: tile.preset, upTo: 'file', view, judged: true });
          const address = `${application.url}${addressOf('getSample', { masterId })}`;
          const answer = await fetch(address, { method: 'POST', body, headers: { 'content-type': 'application/json' } });
          if (!answer.ok) throw new Error(await answer.text());
          await answer.arrayBuffer();
          if (isFirst && time > 0) first.push(performance.now() - begun);
          isFirst = false;
        }
      };
      await Promise.all([work(), work()]);
      if (time > 0) whole.push(performance.now() - begun); // the first time the master is decoded
    }
    return [
      figureRow('A test strip of fourteen qualities at 2,048 px: the first tile, median (ms)', median(first), '<= 400', (ms) => ms <= 400),
      figureRow('The same: all tiles, median (ms)', median(whole), '<= 2500', (ms) => ms <= 2500),
    ];
  } finally {
    await application.stop();
  }
}
