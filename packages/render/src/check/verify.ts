import { readFile } from 'node:fs/promises';
import { type Curve, parseIccProfile, type Preset, ProblemError, type Raster } from '@rundle/core';
import sharp from 'sharp';
import { isJpegXl } from '../deliver/see-file';
import { describingSegments } from '../metadata/jpeg-segments';
import { decodeJpegXl } from '../write/jpeg-xl';
import type { ColourModel } from '../write/pixel-file';

/** What a finished file was promised to be. */
export interface ExpectedFile {
  /** What it will be called, for the message. */
  name: string;
  file: Preset['file'];
  picture: Raster;
  model: ColourModel;
  profile: Uint8Array | null;
  /** The most it may weigh, in bytes; null: whatever. */
  most: number | null;
  /** For JPEG: the bytes that describe it, which have been read and checked already. */
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

async function firstDifference(bytes: Buffer, { file, picture, model, profile, most, described }: ExpectedFile): Promise<string | null> {
  const decoded = isJpegXl(bytes) ? await decodeJpegXl(bytes) : null;
  const read = await sharp(decoded?.png ?? bytes).metadata();
  const { width, height } = picture;
  const bits = read.depth === 'ushort' ? 16 : 8;
  const type = decoded ? 'jxl' : read.format === 'heif' && read.compression === 'av1' ? 'avif' : read.format;
  const icc = decoded?.profile ?? read.icc;
  const sameProfile = profile === null ? icc === undefined : icc !== undefined && sameColours(icc, profile);
  const differences: [boolean, string][] = [
    [type !== file.type, `its type is ${type}, not ${file.type}`],
    [read.width !== width || read.height !== height, `it has ${read.width} x ${read.height} px, not ${width} x ${height}`],
    [bits !== file.bits, `it has ${bits} bits per channel, not ${file.bits}`],
    [modelRead(read.space) !== model, `its colours are ${read.space}, not ${model}`],
    [!sameProfile, profile ? 'the profile is missing or another' : 'it carries a profile'],
    [(read.orientation ?? 1) !== 1, 'its orientation tag is not 1'],
    [most !== null && bytes.length > most, `it weighs ${bytes.length} bytes, more than ${most}`],
    [described !== null && Buffer.compare(describingSegments(bytes), described) !== 0, 'its metadata are not those that were written'],
    [
      file.type === 'jpeg' && (read.isProgressive ?? false) !== file.progressive,
      'it is progressive where it should not be, or the other way round',
    ],
  ];
  return differences.find(([differs]) => differs)?.[1] ?? (decoded ? null : await decodes(bytes, file.type, width));
}

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

/** Reads the picture to its end. For JPEG every coefficient is read, but only every eighth pixel is worked out. */
async function decodes(bytes: Buffer, type: Preset['file']['type'], width: number): Promise<string | null> {
  const image = sharp(bytes, { ignoreIcc: true, failOn: 'warning', limitInputPixels: false });
  try {
    await (type === 'jpeg' ? image.resize(Math.max(1, width >> 3)) : image).raw().toBuffer();
    return null;
  } catch (error) {
    return `it cannot be decoded to its end (${error instanceof Error ? error.message : String(error)})`;
  }
}
