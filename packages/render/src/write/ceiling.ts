import {
  type Ceiling,
  type Finding,
  type Geometry,
  kilobytes,
  type PixelSize,
  type Preset,
  ProblemError,
  searchCeiling,
} from '@rundle/core';
import { type EncodedFile, encodeJpeg, type FinishedImage } from './encode';

export interface EncodedOutput {
  file: EncodedFile;
  quality: number;
  warnings: Finding[];
}

/** Room kept below the ceiling for EXIF, IPTC and XMP, which are written after the encoder, in bytes. */
const METADATA_ROOM = 6_000;
/** An output is never shrunk below this share of the size that was asked for. */
const LEAST_SHARE = 0.2;

/**
 * Encodes one output at its quality, or under its ceiling: the highest quality that fits; when even the floor is too
 * heavy, by the preset's choice smaller in pixels, above the ceiling, or not at all.
 * @param finish makes the finished pixels at a size: the whole way again, so that a shrunk output is sharpened for its size
 * @throws ProblemError `over-ceiling` when the preset says fail, or nothing was small enough
 */
export async function encodeUnderCeiling(
  finish: (scaled: PixelSize) => Promise<FinishedImage>,
  geometry: Geometry,
  preset: Preset,
): Promise<EncodedOutput> {
  const { ceiling, quality } = preset.file;
  const image = await finish(geometry.scaled);
  if (!ceiling) return { file: await encodeJpeg(image, preset, quality), quality, warnings: [] };
  const limit = { ...ceiling, bytes: Math.max(500, ceiling.bytes - METADATA_ROOM) };
  const found = await search(image, preset, limit);
  if (found.fits) return { ...found, warnings: [] };
  if (ceiling.then === 'exceed') return { ...found, warnings: [exceeded(found.file.bytes, ceiling)] };
  if (ceiling.then === 'fail') throw overCeiling(found.file.bytes, ceiling);
  return shrink(finish, geometry, preset, limit, found.file.bytes);
}

const search = (image: FinishedImage, preset: Preset, limit: Ceiling) =>
  searchCeiling((quality) => encodeJpeg(image, preset, quality), limit, preset.file.quality);

/** Takes the long edge down in steps that follow from how far the last one was over, until a quality fits. */
async function shrink(
  finish: (scaled: PixelSize) => Promise<FinishedImage>,
  { output }: Geometry,
  preset: Preset,
  limit: Ceiling,
  bytes: number,
): Promise<EncodedOutput> {
  let share = 1;
  let over = bytes / limit.bytes;
  while (share > LEAST_SHARE) {
    share *= Math.min(0.95, over ** -0.55);
    const size = { width: Math.max(1, Math.round(output.width * share)), height: Math.max(1, Math.round(output.height * share)) };
    const found = await search(await finish(size), preset, limit);
    if (found.fits) return { ...found, warnings: [shrunk(found.file)] };
    over = found.file.bytes / limit.bytes;
  }
  throw overCeiling(over * limit.bytes, limit);
}

const shrunk = ({ width, height }: PixelSize): Finding => ({
  code: 'shrunk',
  severity: 'look',
  message: `Even the lowest quality was too heavy, so the picture was made smaller: ${width} x ${height} px.`,
});

const exceeded = (bytes: number, { bytes: ceiling, floor }: Ceiling): Finding => ({
  code: 'over-ceiling',
  severity: 'look',
  message: `${kilobytes(bytes)} at quality ${floor}, over the ceiling of ${kilobytes(ceiling)}; the preset lets it go over.`,
});

const overCeiling = (bytes: number, { bytes: ceiling, floor }: Ceiling): ProblemError =>
  new ProblemError({
    code: 'over-ceiling',
    field: 'file.ceiling',
    message: `${kilobytes(bytes)} at quality ${floor} is over the ceiling of ${kilobytes(ceiling)}. Lower the floor, the size, or raise the ceiling.`,
  });
