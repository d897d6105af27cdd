import { randomUUID } from 'node:crypto';
import { readFile, rm, stat, statfs, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import {
  type ColourRung,
  type EncodedTypeName,
  FILE_TYPES,
  metadataDifferences,
  type MetadataPlan,
  type MetadataRung,
  ProblemError,
  saysWhere,
} from '@rundle/core';
import sharp from 'sharp';
import { exifTool } from '../read/exiftool';
import { describingSegments } from '../types/jpeg/segments';
import { writerOf } from '../types/registry';

/** What is to be said in an output's file. */
export interface Description {
  /** File that fields are copied from. */
  master: string;
  rung: MetadataRung;
  plan: MetadataPlan;
  /** Resolution tag, pixels per inch; null keeps the master’s. */
  ppi: number | null;
  /** The space of the output's numbers; null: another. */
  space: Exclude<ColourRung['space'], 'keep'> | null;
}

/**
 * Writes metadata into a finished file that carries none yet, consistently in EXIF, IPTC-IIM and XMP, and reads them again.
 * @param path the file, changed in place
 * @throws ProblemError `check-failed` when what is read is not what the preset asks for
 */
export async function embedMetadata(path: string, type: EncodedTypeName, description: Description): Promise<void> {
  const { plan, master, ppi } = description;
  const fields = [
    ...plan.copy,
    ...((await keepsMakerNotes(plan, master)) ? ['MakerNotes'] : []),
    ...(plan.thumbnail ? ['ThumbnailImage'] : []),
  ];
  const leave = plan.leave.length && !plan.thumbnail ? [...plan.leave, 'IFD1:all', 'ThumbnailImage'] : plan.leave;
  const copies = fields.length
    ? ['-TagsFromFile', master, ...fields.map((field) => `-${field}`), ...leave.map((field) => `--${field}`)]
    : [];
  const kept = ppi === null ? ['-TagsFromFile', master, ...RESOLUTION.map((tag) => `-${tag}`)] : [];
  const described = Object.keys(plan.set).length > 0 || fields.length > 0;
  const tags: Record<string, unknown> = { ...plan.set, ...resolutionTags(type, ppi), ...(described ? spaceTags(description.space) : {}) };
  if (Object.keys(plan.set).some((tag) => tag.startsWith('IPTC:'))) tags['IPTC:CodedCharacterSet'] = 'UTF8';
  for (const tag of Object.keys(tags)) if (!carriesIptc(type) && tag.startsWith('IPTC:')) delete tags[tag];
  if (Object.keys(tags).length || copies.length || kept.length)
    await exifTool()
      .write(path, tags, { writeArgs: ['-overwrite_original', '-m', ...copies, ...kept], useMWG: false })
      .catch(async (error: unknown) => {
        throw (await isDiskFull(path)) ? Object.assign(new Error('No space left'), { code: 'ENOSPC', cause: error }) : error;
      });
  await writerOf(type).metadata.after?.(path);
  await checkMetadata(path, type, description);
}

/** ExifTool tells a full disk as an error of the picture, with a path that nobody has chosen. */
async function isDiskFull(path: string): Promise<boolean> {
  const { bavail, bsize } = await statfs(dirname(path));
  return bavail * bsize < 2 * (await stat(path)).size + 65_536;
}

/** WebP, AVIF and JPEG XL have no place for IPTC-IIM; there XMP says the same. */
const carriesIptc = (type: EncodedTypeName): boolean => FILE_TYPES[type].iptc;

async function checkMetadata(path: string, type: EncodedTypeName, { rung, plan }: Description): Promise<void> {
  const read = await exifTool().readRaw(path, { readArgs: ['-e', '-G1', '-n', '-a', '-api', 'LargeFileSupport=1'] });
  const [difference] = metadataDifferences(rung, plan, read, { iptc: carriesIptc(type) });
  if (difference)
    throw new ProblemError({
      code: 'check-failed',
      message: `The metadata did not pass the check after writing: ${difference}. Nothing was kept; please run again.`,
    });
}

/**
 * The metadata of a JPEG as bytes, made once and put into every output that says the same; see jpeg-segments.ts.
 * @throws ProblemError see {@link embedMetadata}
 */
export async function describingBytes(description: Description): Promise<Uint8Array> {
  const carrier = join(tmpdir(), `rundle-${randomUUID()}.jpg`);
  try {
    await writeFile(carrier, await smallestJpeg());
    await embedMetadata(carrier, 'jpeg', description);
    const bytes = describingSegments(await readFile(carrier));
    const { rung, plan } = description;
    // A thumbnail is a JPEG of its own and may describe itself.
    if (!plan.thumbnail || rung.place === 'keep' || !nestedDescription(bytes)) return bytes;
    return await describingBytes({ ...description, plan: { ...plan, thumbnail: false } });
  } finally {
    await rm(carrier, { force: true });
  }
}

const nestedDescription = (bytes: Uint8Array): boolean => Buffer.from(bytes).toString('latin1').split('Exif\0\0').length > 2;

let smallest: Promise<Buffer> | undefined;

/** A JPEG of one pixel, to carry metadata. */
export function smallestJpeg(): Promise<Buffer> {
  smallest ??= sharp({ create: { width: 1, height: 1, channels: 3, background: '#000' } })
    .jpeg()
    .toBuffer();
  return smallest;
}

/** Maker notes are one block that cannot be taken apart; they stay only where all of it is known and none of it is a place. */
async function keepsMakerNotes({ makerNotes }: MetadataPlan, master: string): Promise<boolean> {
  if (makerNotes !== 'placeless') return makerNotes === 'keep';
  const read = await exifTool().readRaw(master, { readArgs: ['-G1', '-a', '-u', '-MakerNotes:all'] });
  const names = Object.keys(read).filter((key) => !/^(?:SourceFile|ExifTool|errors|warnings)/.test(key));
  return names.length > 0 && !names.some((name) => saysWhere(name) || /Unknown/.test(name));
}

const RESOLUTION = [
  'IFD0:XResolution',
  'IFD0:YResolution',
  'IFD0:ResolutionUnit',
  'JFIF:XResolution',
  'JFIF:YResolution',
  'JFIF:ResolutionUnit',
];

/** EXIF, where unit 2 are inches, and the file's own header say the same. */
function resolutionTags(type: EncodedTypeName, ppi: number | null): Record<string, number> {
  if (ppi === null) return {};
  const exif = { 'IFD0:XResolution#': ppi, 'IFD0:YResolution#': ppi, 'IFD0:ResolutionUnit#': 2 };
  return { ...exif, ...writerOf(type).metadata.resolution?.(ppi) };
}

/** EXIF 2.32, 4.6.5: ColorSpace 1 is sRGB, all else is uncalibrated; DCF 2.0 marks its optional space, Adobe RGB, by R03. */
function spaceTags(space: Description['space']): Record<string, string | number> {
  if (space === 'srgb') return { 'ExifIFD:ColorSpace#': 1 };
  return { 'ExifIFD:ColorSpace#': 65_535, ...(space === 'adobe-rgb' ? { 'InteropIFD:InteropIndex': 'R03' } : {}) };
}
