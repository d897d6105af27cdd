import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { cpuSeconds, median, presetFile, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * What one call of the command line costs, as scripts make it thousands of times: processor time of the program and all that it starts.
 */

const ROUNDS = 9;
const RUNDLE = join(ROOT, 'node_modules/.bin/rundle');
const MASTER = join(ROOT, 'demo/masters/LFS_0412.jpg');

const cpu = ([program = '', ...args]: readonly string[]): number => cpuSeconds(() => spawnSync(program, args, { stdio: 'ignore' }));

export function oneCall(): Row[] {
  const preset = presetFile('one-call', { size: { px: 2048 } });
  const out = join(work, 'one-call');
  const turns = Array.from({ length: ROUNDS }, () => {
    rmSync(out, { recursive: true, force: true });
    return {
      node: cpu([process.execPath, '-e', '0']),
      inspect: cpu([RUNDLE, 'inspect', MASTER]),
      render: cpu([RUNDLE, 'render', '--preset', preset, '--out', out, MASTER]),
      thumbnail: cpu([
        'vipsthumbnail',
        '--size',
        '2048x2048',
        '--eprofile',
        'srgb',
        '-o',
        join(work, 'one_%s.jpg[Q=80,interlace]'),
        MASTER,
      ]),
    };
  });
  const of = (key: keyof (typeof turns)[number]) => turns.map((turn) => turn[key]);
  const row = (what: string, key: 'inspect' | 'render', most: number): Row => {
    const figures = turns.map((turn) => turn[key] / turn.thumbnail);
    const ours = `${seconds(key)}, of it Node.js alone ${seconds('node')}`;
    const against = `vipsthumbnail, size and profile only: ${seconds('thumbnail')}`;
    return { what, ours, against, goal: `<= ${most}`, figures, figure: median(figures), met: median(figures) <= most };
  };
  const seconds = (key: keyof (typeof turns)[number]) => `${median(of(key)).toFixed(2)} s`;
  return [
    row('Processor time of `rundle inspect` of one file', 'inspect', 0.35),
    row('Processor time of `rundle render` of one JPEG of 24 megapixels to 2048 px', 'render', 1.1),
  ];
}
