import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { median, presetFile, ROOT, work } from './measure';
import type { Row } from './report';

/*
 * What one call of the command line costs, as scripts make it thousands of times: processor time of the program and all that it starts.
 */

const ROUNDS = 9;
const RUNDLE = join(ROOT, 'node_modules/.bin/rundle');
const MASTER = join(ROOT, 'demo/masters/LFS_0412.jpg');

/** Seconds of processor time, by the shell's own count, which takes in every child. */
function cpu(command: readonly string[]): number {
  const { stderr } = spawnSync('bash', ['-c', `TIMEFORMAT='%U %S'; time "$@" > /dev/null 2>&1`, '-', ...command], { encoding: 'utf8' });
  const [user, system] = stderr.trim().split('\n').at(-1)!.split(' ').map(Number);
  return user! + system!;
}

export function oneCall(): Row[] {
  const preset = presetFile('one-call', { size: { px: 2048 } });
  const out = join(work, 'one-call');
  const turns = Array.from({ length: ROUNDS }, () => {
    rmSync(out, { recursive: true, force: true });
    return {
      node: cpu([process.execPath, '-e', '0']),
      inspect: cpu([RUNDLE, 'inspect', MASTER]),
      identify: cpu(['identify-im6.q16', '-verbose', MASTER]),
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
  const row = (what: string, key: 'inspect' | 'render', against: string, most: number): Row => ({
    what,
    ours: `of it Node.js alone ${median(of('node')).toFixed(2)} s`,
    against,
    goal: `<= ${most}`,
    figures: of(key),
    figure: median(of(key)),
    met: median(of(key)) <= most,
  });
  const seconds = (key: keyof (typeof turns)[number]) => `${median(of(key)).toFixed(2)} s`;
  return [
    row('Processor time of `rundle inspect` of one file (s)', 'inspect', `ImageMagick's identify -verbose: ${seconds('identify')}`, 0.6),
    row(
      'Processor time of `rundle render` of one JPEG of 24 megapixels to 2048 px (s)',
      'render',
      `vipsthumbnail, size and profile only: ${seconds('thumbnail')}`,
      1.6,
    ),
  ];
}
