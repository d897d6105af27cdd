import { execFile } from 'node:child_process';
import { createRequire } from 'node:module';
import { resolve } from 'node:path';
import { promisify } from 'node:util';
import { tied } from '../tied';
import { MOST_MEMORY, MOST_TIME, type TagTool } from './exiftool';

/** Bytes of an answer: whole embedded pictures are never asked for. */
const MOST_ANSWER = 64e6;

/**
 * ExifTool, started for each file and without the package that keeps it open: for a program that reads one file and ends. The package takes as
 * long to load as half a start of ExifTool.
 */
export class OnceExifTool implements TagTool {
  private readonly program = createRequire(import.meta.url)('exiftool-vendored.pl') as string;

  async readRaw(path: string, { readArgs }: { readArgs: string[] }): Promise<Record<string, unknown>> {
    const call = ['-charset', 'filename=utf8', ...readArgs, '-json', resolve(path)];
    const [program = '', ...args] = tied([this.program, ...call], MOST_MEMORY);
    const options = { maxBuffer: MOST_ANSWER, timeout: MOST_TIME, env: { ...process.env, LANG: 'C' } };
    const { stdout } = await promisify(execFile)(program, args, options);
    return (JSON.parse(stdout) as [Record<string, unknown>])[0];
  }

  write(): Promise<never> {
    return Promise.reject(new Error('What is read once is not written.'));
  }
}
