import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { type FileHandle, mkdtemp, open, readFile, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { jpegXlDistance, notWritable, ProblemError } from '@rundle/core';
import { tied } from '../../tied';
import { programPath } from '../on-this-machine';

/*
 * JPEG XL (ISO/IEC 18181) is written by cjxl and read by djxl, the programs of its reference implementation. Both want files that they can
 * open and seek in: what they read and write are files without a name, so that nothing is left behind however they end.
 */

/** Of 1 to 9: from 4 on it takes longer for hardly a byte less (measured on photographs of 2048 px). */
const EFFORT = 3;
/** The most memory that one of them may take, in bytes of address space. */
const MOST_MEMORY = 8_000_000_000;
/** After so long it is ended, in ms; a stopped machine must not look like a hanging program. */
const MOST_TIME = 300_000;

/**
 * @param png the finished picture with its profile
 * @param quality 1-100, see {@link jpegXlDistance}
 * @throws ProblemError when the program is missing or fails
 */
export async function encodeJpegXl(png: Uint8Array, quality: number): Promise<Buffer> {
  return run('cjxl', png, ['/dev/stdin', '/dev/stdout', '-d', String(jpegXlDistance(quality)), '-e', String(EFFORT), '--num_threads=0']);
}

export interface DecodedJpegXl {
  /** The picture, with the profile of its pixels. */
  png: Buffer;
  /** The profile that the file was made with, as its decoder writes it down. */
  profile: Buffer;
  /** The profile of the pixels as they are. */
  ofPixels: Buffer;
  /** Whether the pixels are in those colours; where the decoder cannot work them out, they are in linear sRGB. */
  ownColours: boolean;
}

/** What djxl calls spaces that pixels can be had in. */
const SPACES = { srgb: ['--color_space=RGB_D65_SRG_Rel_SRG'], wide: ['--color_space=RGB_D65_202_Rel_SRG', '--bits_per_sample=16'] };

/**
 * @param space what to convert the pixels to: sRGB, or one that holds all colours, in 16 bits; null: they stay in their own
 * @throws ProblemError when the program is missing, or the file cannot be decoded to its end
 */
export async function decodeJpegXl(file: Uint8Array, space: keyof typeof SPACES | null = null): Promise<DecodedJpegXl> {
  const folder = await mkdtemp(join(tmpdir(), 'rundle-jxl-'));
  const at = (name: string) => join(folder, name);
  try {
    await symlink('/dev/stdout', at('picture.png'));
    const profiles = [`--orig_icc_out=${at('own.icc')}`, `--icc_out=${at('pixels.icc')}`];
    const png = await run('djxl', file, [
      '/dev/stdin',
      at('picture.png'),
      ...profiles,
      ...(space ? SPACES[space] : []),
      '--quiet',
      '--num_threads=0',
    ]);
    const [profile, ofPixels] = await Promise.all([readFile(at('own.icc')), readFile(at('pixels.icc'))]);
    return { png, profile, ofPixels, ownColours: profile.equals(ofPixels) };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function run(name: string, input: Uint8Array, args: readonly string[]): Promise<Buffer> {
  const program = programPath(name);
  if (!program) throw new ProblemError(notWritable('jxl'));
  const [from, to] = [await unnamedFile(), await unnamedFile()];
  try {
    await from.writeFile(input);
    const [command = '', ...rest] = tied([program, ...args], MOST_MEMORY);
    const child = spawn(command, rest, { stdio: [from.fd, to.fd, 'pipe'], timeout: MOST_TIME, killSignal: 'SIGKILL' });
    let said = '';
    child.stderr!.on('data', (chunk: Buffer) => (said = (said + chunk.toString('utf8')).slice(-2000)));
    const code = await new Promise<number | null>((resolve, reject) => child.once('error', reject).once('close', resolve));
    if (code !== 0) throw new ProblemError({ code: 'render-failed', message: `${name} ended with ${code}: ${lastLine(said)}. Run again.` });
    return await to.readFile();
  } finally {
    await Promise.all([from.close(), to.close()]);
  }
}

/** A file that has content and no name: the system takes it away with the last who has it open. */
async function unnamedFile(): Promise<FileHandle> {
  const path = join(tmpdir(), `rundle-${randomUUID()}`);
  const file = await open(path, 'wx+', 0o600);
  await rm(path);
  return file;
}

const lastLine = (text: string): string => text.trim().split('\n').at(-1) ?? '';
