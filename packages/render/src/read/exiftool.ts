import { ExifTool } from 'exiftool-vendored';

let running: ExifTool | undefined;

/** The one ExifTool process of this thread: started when first needed, kept open, since a start costs more than a file. */
export function exifTool(): ExifTool {
  running ??= new ExifTool({ maxProcs: 1, taskTimeoutMillis: 60_000, useMWG: false, geolocation: false });
  return running;
}

/** Ends the process; without it a program would not end by itself. */
export async function endExifTool(): Promise<void> {
  const ending = running;
  running = undefined;
  await ending?.end();
}
