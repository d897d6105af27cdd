import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { DefaultExiftoolArgs, ExifTool, exiftoolPath } from 'exiftool-vendored';

let running: ExifTool | undefined;

/** The one ExifTool process of this thread: started when first needed, kept open, since a start costs more than a file. */
export function exifTool(): ExifTool {
  running ??= new ExifTool({ maxProcs: 1, taskTimeoutMillis: 60_000, useMWG: false, geolocation: false, processFactory });
  return running;
}

/** Part of every Debian system (util-linux). */
const SETPRIV = '/usr/bin/setpriv';

/**
 * ExifTool waits for orders even when nobody is left to give them. So the system is told to end it together with the
 * thread that began it, however that ends.
 */
async function processFactory() {
  const tool = [await exiftoolPath(), ...DefaultExiftoolArgs];
  const [program = '', ...args] = existsSync(SETPRIV) ? [SETPRIV, '--pdeathsig', 'KILL', ...tool] : tool;
  return spawn(program, args, { stdio: 'pipe', env: { ...process.env, LANG: 'C' } });
}

/** Ends the process; without it a program would not end by itself. */
export async function endExifTool(): Promise<void> {
  const ending = running;
  running = undefined;
  await ending?.end();
}
