import { readFile } from 'node:fs/promises';
import { type Curve, type EncodedFileByType, parseIccProfile, ProblemError, type Raster, SNIFF_BYTES, sniffWritten } from '@rundle/core';
import sharp from 'sharp';
import { writerOf } from '../types/registry';
import type { Writer } from '../types/type';
import type { ColourModel } from '../write/pixel-file';

/** What a finished file was promised to be. */
export interface ExpectedFile {
  /** What it will be called, for the message. */
  name: string;
  settings: EncodedFileByType;
  bits: 8 | 16;
  picture: Raster;
  model: ColourModel;
  profile: Uint8Array | null;
  /** The most it may weigh, in bytes; null: whatever. */
  most: number | null;
  /** The bytes that describe it, where they stand apart and have been read and checked already. */
  described: Uint8Array | null;
}

/**
 * Opens a finished file again, decodes it to its end and holds it against what was promised.
 * @param path the file, still aside
 * @returns its weight in bytes
 * @throws ProblemError `check-failed` that names the first difference
 */
export async function verifyOutput(path: string, promised: ExpectedFile): Promise<number> {
  const bytes = await readFile(path);
  const found = await firstDifference(bytes, promised);
  if (found)
    throw new ProblemError({
      code: 'check-failed',
      file: promised.name,
      message: `${promised.name} did not pass the check after writing: ${found}. Nothing was kept; please run again.`,
    });
  return bytes.length;
}

async function firstDifference(bytes: Buffer, promised: ExpectedFile): Promise<string | null> {
  const { settings, picture, model, profile, most, described } = promised;
  const writer = writerOf(settings.type);
  const type = sniffWritten(bytes.subarray(0, SNIFF_BYTES));
  if (type !== settings.type) return `its type is ${type}, not ${settings.type}`;
  const opened = await writer.open(bytes);
  const read = await sharp(opened.input).metadata();
  const { width, height } = picture;
  const bits = read.depth === 'ushort' ? 16 : 8;
  const icc = opened.profile ?? read.icc;
  const sameProfile = profile === null ? icc === undefined : icc !== undefined && sameColours(icc, profile);
  const differences: [boolean, string][] = [
    [!writer.isOf(read), `its type is ${read.format}, not ${settings.type}`],
    [read.width !== width || read.height !== height, `it has ${read.width} x ${read.height} px, not ${width} x ${height}`],
    [bits !== promised.bits, `it has ${bits} bits per channel, not ${promised.bits}`],
    [modelRead(read.space) !== model, `its colours are ${read.space}, not ${model}`],
    [!sameProfile, profile ? 'the profile is missing or another' : 'it carries a profile'],
    [(read.orientation ?? 1) !== 1, 'its orientation tag is not 1'],
    [most !== null && bytes.length > most, `it weighs ${bytes.length} bytes, more than ${most}`],
    [!isDescribed(bytes, writer, described), 'its metadata are not those that were written'],
  ];
  const found = differences.find(([differs]) => differs)?.[1] ?? writer.differs?.(read, settings);
  // What another program has decoded to be read here has been read to its end.
  if (found || opened.input !== bytes) return found ?? null;
  return writer.readsToEnd?.(bytes, picture) ? null : decodes(bytes, writer.readableAt?.(width));
}

const isDescribed = (bytes: Buffer, { metadata: { apart } }: Writer<EncodedFileByType>, described: Uint8Array | null): boolean =>
  described === null || (apart !== null && Buffer.compare(apart.take(bytes), described) === 0);

/** The furthest that two profiles of the same colours may lie apart: in parts of the matrix and of light. */
const SAME = 0.002;

/** Whether two profiles mean the same colours: JPEG XL writes most of them down in a few words, and its decoder makes a profile of these. */
function sameColours(read: Uint8Array, written: Uint8Array): boolean {
  if (Buffer.compare(read, written) === 0) return true;
  const [a, b] = [parseIccProfile(read), parseIccProfile(written)];
  if (a.grey && b.grey) return sameCurve(a.grey, b.grey);
  if (!a.matrix || !b.matrix) return false;
  const [one, other] = [a.matrix, b.matrix];
  const sameMatrix = one.toXyz.every((row, at) => row.every((value, column) => Math.abs(value - other.toXyz[at]![column]!) <= SAME));
  return sameMatrix && one.curves.every((curve, channel) => sameCurve(curve, other.curves[channel]!));
}

const STEPS = Array.from({ length: 33 }, (_, step) => step / 32);
const sameCurve = (a: Curve, b: Curve): boolean => STEPS.every((at) => Math.abs(a(at) - b(at)) <= SAME);

function modelRead(space: string | undefined): ColourModel {
  return space === 'cmyk' ? 'cmyk' : space === 'b-w' || space === 'grey16' ? 'grey' : 'rgb';
}

/** Reads the picture to its end. @param width in px at which that takes less work; undefined: its own */
async function decodes(bytes: Buffer, width: number | undefined): Promise<string | null> {
  const image = sharp(bytes, { ignoreIcc: true, failOn: 'warning', limitInputPixels: false });
  try {
    await (width === undefined ? image : image.resize(width)).raw().toBuffer();
    return null;
  } catch (error) {
    return `it cannot be decoded to its end (${error instanceof Error ? error.message : String(error)})`;
  }
}
