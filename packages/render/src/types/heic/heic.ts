import { execFile } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { promisify } from 'node:util';
import { tied } from '../../tied';
import { madeOnce } from '../made-once';
import { onlyProfile } from '../png/chunks';
import type { Opener } from '../type';

/*
 * HEIC (ISO/IEC 23008-12) is read by heif-convert of libheif: it follows the boxes that turn and mirror, leaves auxiliary pictures aside, and
 * writes more than 8 bits as 16.
 */

const run = promisify(execFile);

/** The most memory that it may take, in bytes of address space. */
const MOST_MEMORY = 4_000_000_000;
/** After so long it is ended, in ms; a stopped machine must not look like a hanging program. */
const MOST_TIME = 300_000;

export const heicOpener: Opener = {
  // As its decoder has written it down.
  isOf: ({ format }) => format === 'png',
  inRows: false,
  input: (path) => madeOnce(path, () => pictureOf(resolve(path))),
};

/** The main picture, upright: what EXIF says of its orientation has been followed by its boxes, and is not said again. */
async function pictureOf(path: string): Promise<Buffer> {
  const folder = await mkdtemp(join(tmpdir(), 'rundle-heic-'));
  try {
    await ask('heif-convert', [path, join(folder, 'picture.png')]);
    const png = await readFile(join(folder, await mainOf(path, await readdir(folder))));
    return onlyProfile(png);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Of several pictures in one file each has a number, in the order in which heif-info tells which is the main one. */
async function mainOf(path: string, written: readonly string[]): Promise<string> {
  if (written.includes('picture.png')) return 'picture.png';
  if (written.length === 0) throw new Error('it has no picture');
  const pictures = (await ask('heif-info', [path])).split('\n').filter((line) => line.startsWith('image: '));
  const main = pictures.findIndex((line) => line.endsWith(', primary'));
  return `picture-${Math.max(0, main) + 1}.png`;
}

async function ask(program: string, args: readonly string[]): Promise<string> {
  const [command = '', ...rest] = tied([program, ...args], MOST_MEMORY);
  try {
    const { stdout } = await run(command, rest, { timeout: MOST_TIME, killSignal: 'SIGKILL' });
    return stdout;
  } catch (error) {
    // To whoever brings a file in, what the program says is of no use.
    throw new Error('it cannot be decoded to its end', { cause: error });
  }
}
