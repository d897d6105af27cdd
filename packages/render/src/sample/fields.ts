import { randomUUID } from 'node:crypto';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FILE_TYPES, type FileField, type FileFields } from '@rundle/core';
import { descriptionOf } from '../metadata/description';
import { describingBytes, smallestJpeg } from '../metadata/embed';
import { withDescribingSegments } from '../types/jpeg/segments';
import { exifTool } from '../read/exiftool';
import type { SampleTask } from './sample';

/** What is no word about the picture: true of the file at hand, or worked out by the reader. */
const NO_FIELD = /^(?:SourceFile|errors|warnings|ExifTool|File|System|Composite|JFIF|ICC|APP14|MPF|PNG|IFD1|ThumbnailImage)/;
const READ = ['-e', '-G1', '-a', '-fast2', '-EXIF:all', '-IPTC:all', '-XMP:all'];
/** Letters of a value that are shown. */
const LONGEST = 300;

/**
 * Every field that would stand in an output, as it is read from what is written for it, and every field of the master that would not.
 * @throws ProblemError when the metadata cannot be written
 */
export async function fieldsOfOutput(task: SampleTask): Promise<FileFields> {
  const { master, making } = task;
  const { preset } = making;
  const own = await read(master);
  if (preset.file.type === 'original') return { kept: own, removed: [] };
  const { colour, file } = preset;
  const described = await describingBytes(descriptionOf(task, making, colour.space === 'keep' ? null : colour.space));
  const carrier = join(tmpdir(), `rundle-${randomUUID()}.jpg`);
  try {
    await writeFile(carrier, withDescribingSegments(await smallestJpeg(), described));
    const kept = (await read(carrier)).filter(({ field }) => FILE_TYPES[file.type].iptc || !field.startsWith('IPTC:'));
    const names = new Set(kept.map(({ field }) => nameOf(field)));
    return { kept, removed: own.filter(({ field }) => !names.has(nameOf(field))) };
  } finally {
    await rm(carrier, { force: true });
  }
}

const nameOf = (field: string): string => field.slice(field.indexOf(':') + 1);

async function read(path: string): Promise<FileField[]> {
  const tags = await exifTool().readRaw(path, { readArgs: READ });
  return Object.entries(tags).flatMap(([field, value]) => {
    if (NO_FIELD.test(field) || !field.includes(':')) return [];
    const text = [value]
      .flat()
      .map((one: unknown) => (typeof one === 'string' ? one : JSON.stringify(one)))
      .join(', ');
    return [{ field, value: text.slice(0, LONGEST) }];
  });
}
