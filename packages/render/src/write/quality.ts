import {
  type Ceiling,
  type Expect,
  type FileRung,
  type EncodedFileByType,
  fileByType,
  type Finding,
  finding,
  type Geometry,
  kilobytes,
  type LossyFile,
  type Luma,
  lumaOf,
  msSsim,
  type PixelSize,
  type Preset,
  ProblemError,
  searchCeiling,
  searchMatch,
  shrunkGeometry,
} from '@rundle/core';
import { writerOf } from '../types/registry';
import { type EncodedFile, Encoder, type FinishedImage } from './encode';
import { asRgb } from './as-rgb';

export interface EncodedOutput {
  file: EncodedFile;
  image: FinishedImage;
  settings: EncodedFileByType;
  quality: number | null;
  warnings: Finding[];
}

/** What boxes and padding around metadata add where they do not stand apart, in bytes. */
const CONTAINER_ROOM = 400;
/** An output is never shrunk below this share of the size that was asked for. */
const LEAST_SHARE = 0.2;

/**
 * Encodes one output at its quality, at the lowest that looks like the unencoded picture, or under its ceiling: the highest
 * quality that fits; when even the floor is too heavy, by the preset's choice smaller in pixels, above the ceiling, or not
 * at all. One finished picture is kept in memory while qualities are tried.
 * @param finish makes the finished pixels of a geometry: the whole way again, so that a shrunk output is sharpened for its size
 * @param metadataBytes tells what EXIF, IPTC and XMP will add to the file
 * @param onTry called before each encode; what it throws ends the work
 * @throws ProblemError `over-ceiling` when the preset says fail, or nothing was small enough
 */
export async function encodeOutput(
  finish: (geometry: Geometry) => Promise<FinishedImage>,
  geometry: Geometry,
  preset: Preset,
  metadataBytes: () => Promise<number>,
  onTry: () => void,
): Promise<EncodedOutput> {
  const settings = encodedFile(preset.file);
  const image = await finish(geometry);
  const encoder = new Encoder(image, settings, onTry);
  if (!('aim' in settings)) return { file: await encoder.encode(100), image, settings, quality: null, warnings: [] };
  const { ceiling } = settings;
  const wanted = await wantedQuality(encoder, settings);
  if (!ceiling) return { file: wanted.file ?? (await encoder.encode(wanted.quality)), image, settings, ...wanted.told };
  const added = (await metadataBytes()) + (writerOf(settings.type).metadata.apart ? 0 : CONTAINER_ROOM);
  const limit = { ...ceiling, bytes: Math.max(500, ceiling.bytes - added) };
  const expect = encoder.expectations();
  const isTooHeavy = expect !== null && !wanted.file && (await expect(wanted.quality)) > FAR_OVER * limit.bytes;
  // What was asked for stands where it fits, with the chroma that belongs to that quality.
  const asked = isTooHeavy ? null : (wanted.file ?? (await encoder.encode(wanted.quality)));
  if (asked && asked.bytes <= limit.bytes) return { file: asked, image, settings, ...wanted.told };
  // What was asked for may have just been made.
  const again = encoder.isSteady(wanted.quality) ? asked : null;
  const tried = (quality: number) => (again && quality === wanted.quality ? Promise.resolve(again) : encoder.encode(quality, true));
  const led = expect && again ? ledBy(expect, again.bytes / (await expect(wanted.quality))) : expect;
  const found = await searchCeiling(tried, limit, wanted.quality, led);
  if (found.fits) return { ...found, image, settings, warnings: wanted.told.warnings };
  const told = found.file.bytes + added;
  if (ceiling.then === 'exceed') return { ...found, image, settings, warnings: [exceeded(told, ceiling)] };
  if (ceiling.then === 'fail') throw overCeiling(told, ceiling);
  return shrink(finish, geometry, settings, { limit, from: preset.file.quality }, found.file.bytes, onTry);
}

/** What is expected to be so many times as heavy as it may is not made to be weighed. */
const FAR_OVER = 1.25;

/** @param factor by which what came out differs from what was expected */
const ledBy =
  (expect: Expect, factor: number): Expect =>
  async (quality) =>
    factor * (await expect(quality));

interface QualityChoice {
  quality: number;
  /** The file at that quality, where it has been made already. */
  file: EncodedFile | null;
  told: { quality: number; warnings: Finding[] };
}

/** The quality before any ceiling: the preset's own, or the lowest that matches. */
async function wantedQuality(encoder: Encoder, { aim }: LossyFile): Promise<QualityChoice> {
  if (aim.by === 'quality') return { quality: aim.quality, file: null, told: { quality: aim.quality, warnings: [] } };
  const { match } = aim;
  const { picture, model } = encoder.image;
  const decodedModel = model === 'cmyk' ? 'cmyk' : 'rgb';
  const lumaOfFile = async (file: EncodedFile) => {
    const { picture: decoded, ownColours } = await encoder.decode(file);
    return { luma: lumaOf(asRgb(decoded, decodedModel)), ownColours };
  };
  const before = lumaOf(asRgb(picture, model));
  // Where the decoder converts the colours, the best file that there is stands in for the picture, converted in the same way.
  let best: Promise<Luma> | undefined;
  const converted = () => (best ??= encoder.encode(100).then(async (file) => (await lumaOfFile(file)).luma));
  const found = await searchMatch(async (at) => {
    const file = await encoder.encode(at);
    const { luma, ownColours } = await lumaOfFile(file);
    return { ...file, score: msSsim(ownColours ? before : await converted(), luma) };
  }, match);
  const warnings = found.reached ? [] : [missed(match, found.file.score)];
  return { quality: found.quality, file: found.file, told: { quality: found.quality, warnings } };
}

/** Takes the long edge down in steps that follow from how far the last one was over, until a quality fits. */
async function shrink(
  finish: (geometry: Geometry) => Promise<FinishedImage>,
  geometry: Geometry,
  settings: EncodedFileByType,
  { limit, from }: { limit: Ceiling; from: number },
  bytes: number,
  onTry: () => void,
): Promise<EncodedOutput> {
  let share = 1;
  let over = bytes / limit.bytes;
  while (share > LEAST_SHARE) {
    share *= Math.min(0.95, over ** -0.55);
    const image = await finish(shrunkGeometry(geometry, share));
    const encoder = new Encoder(image, settings, onTry);
    const found = await searchCeiling((quality) => encoder.encode(quality, true), limit, from, encoder.expectations());
    if (found.fits) return { ...found, image, settings, warnings: [shrunk(found.file)] };
    over = found.file.bytes / limit.bytes;
  }
  throw overCeiling(over * limit.bytes, limit);
}

const missed = (match: number, score: number): Finding =>
  finding(
    'match-missed',
    `Even quality 100 is only ${score.toFixed(4)} like the unencoded picture (MS-SSIM); the preset asks for ${match}.`,
  );

const shrunk = ({ width, height }: PixelSize): Finding =>
  finding('shrunk', `Even the lowest quality was too heavy, so the picture was made smaller: ${width} × ${height} px.`);

const exceeded = (bytes: number, { bytes: ceiling, floor }: Ceiling): Finding =>
  finding(
    'over-ceiling',
    `${kilobytes(bytes)} at quality ${floor}, over the ceiling of ${kilobytes(ceiling)}; the preset lets it go over.`,
  );

const overCeiling = (bytes: number, { bytes: ceiling, floor }: Ceiling): ProblemError =>
  new ProblemError({
    code: 'over-ceiling',
    field: 'file.ceiling',
    message: `${kilobytes(bytes)} at quality ${floor} is over the ceiling of ${kilobytes(ceiling)}. Lower the floor, the size, or raise the ceiling.`,
  });

/** What the encoder makes: an untouched copy never comes this far. */
function encodedFile(rung: FileRung): EncodedFileByType {
  const settings = fileByType(rung);
  if (settings.type === 'original') throw new Error('An untouched copy is not encoded.');
  return settings;
}
