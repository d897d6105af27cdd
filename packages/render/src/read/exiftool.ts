import { spawn } from 'node:child_process';
import { rm } from 'node:fs/promises';
import type { ExifTool } from 'exiftool-vendored';
import { tied } from '../tied';
import { withoutLineBreaks } from './path-alias';

/** What is asked of ExifTool. */
export interface TagTool {
  /** All tags of a file that the arguments ask for. */
  readRaw(path: string, options: { readArgs: string[] }): Promise<Record<string, unknown>>;
  /** Writes tags into a file. */
  write(path: string, tags: object, options: { writeArgs?: string[]; useMWG?: boolean }): Promise<unknown>;
}

let own: OwnExifTool | undefined;
let lent: TagTool | undefined;

/**
 * The one ExifTool of this program: started when first needed and kept open, since a start costs more than twenty files. A
 * thread uses that of the program it belongs to, see {@link useExifTool}.
 */
export function exifTool(): TagTool {
  return lent ?? (own ??= new OwnExifTool());
}

/** From now on this thread asks another's ExifTool. */
export function useExifTool(tool: TagTool): void {
  lent = tool;
}

/** Ends the process; without it a program would not end by itself. */
export async function endExifTool(): Promise<void> {
  const ending = own;
  own = undefined;
  await ending?.end();
}

class OwnExifTool implements TagTool {
  private readonly started = start();

  async readRaw(path: string, options: { readArgs: string[] }): Promise<Record<string, unknown>> {
    const tool = await this.started;
    return withoutLineBreaks([path], ([safe]) => twice(safe!, () => tool.readRaw<Record<string, unknown>>(safe!, options)));
  }

  async write(path: string, tags: object, options: { writeArgs?: string[]; useMWG?: boolean }): Promise<unknown> {
    const tool = await this.started;
    const { writeArgs = [] } = options;
    return withoutLineBreaks([path, ...writeArgs], ([safe, ...args]) =>
      twice(safe!, () => tool.write(safe!, tags, { ...options, writeArgs: args })),
    );
  }

  async end(): Promise<void> {
    await (await this.started).end();
  }
}

/**
 * Does something with ExifTool, and once more when that fails: another picture, or a pause of the whole machine, may have brought the
 * process down in the middle. The package has replaced it by then.
 */
async function twice<T>(path: string, act: () => Promise<T>): Promise<T> {
  try {
    return await act();
  } catch {
    // What the first try left beside the file would stand in the way of the second.
    await rm(`${path}_exiftool_tmp`, { force: true });
    return act();
  }
}

/** The most memory that ExifTool may take, in bytes of address space: one damaged or hostile file can make it take gigabytes. */
export const MOST_MEMORY = 1_500_000_000;
/** After so long it is ended and replaced, in ms. */
export const MOST_TIME = 60_000;

/** The package is loaded here and not above, since the threads never need it. */
async function start(): Promise<ExifTool> {
  const { DefaultExiftoolArgs, ExifTool, exiftoolPath } = await import('exiftool-vendored');
  // ExifTool goes on waiting for commands after its parent has ended.
  const processFactory = async () => {
    const [program = '', ...args] = tied([await exiftoolPath(), ...DefaultExiftoolArgs], MOST_MEMORY);
    return spawn(program, args, { stdio: 'pipe', env: { ...process.env, LANG: 'C' } });
  };
  const tool = new ExifTool({ maxProcs: 1, taskTimeoutMillis: MOST_TIME, useMWG: false, geolocation: false, processFactory });
  tool.version().catch(() => {}); // starts the process; errors are reported with the first file
  return tool;
}
