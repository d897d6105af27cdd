import {
  chromaSampling,
  chromaSmears,
  type EncodedFileByType,
  FILE_TYPES,
  type GamutLoss,
  type Halo,
  type PixelSize,
  type Raster,
  steadySampling,
} from '@rundle/core';
import sharp from 'sharp';
import { writerOf } from '../types/registry';
import type { Sampling, Writer } from '../types/type';
import type { ColourModel } from './pixel-file';

/** A picture that only has to be encoded. */
export interface FinishedImage {
  /** In the bits of the file; grey and RGB perhaps with transparency. */
  picture: Raster;
  model: ColourModel;
  /** The same as a file that carries its profile, for the encoder. */
  file: Buffer;
  /** ICC profile to embed; null: none. */
  profile: Uint8Array | null;
  gamut: GamutLoss | null;
  halo: Halo | null;
}

export interface EncodedFile extends PixelSize {
  data: Buffer;
  bytes: number;
}

/** Encodes one finished picture at different qualities; what does not depend on the quality is done once. */
export class Encoder {
  private readonly writer: Writer<EncodedFileByType>;
  private readonly encoded: (quality: number, chroma: Sampling) => Promise<Buffer>;
  private smears: boolean | undefined;
  private convertsColours = false;

  /** @param onTry called before each encode; what it throws ends the work */
  constructor(
    readonly image: FinishedImage,
    private readonly settings: EncodedFileByType,
    private readonly onTry: () => void = () => {},
  ) {
    this.writer = writerOf(settings.type);
    this.encoded = this.writer.encoder(image, settings);
  }

  /**
   * @param quality 1-100; of no effect for types without loss
   * @param steady for searches: the sampling of chroma is that of the picture at every quality, so that the weight makes no step
   */
  async encode(quality: number, steady = false): Promise<EncodedFile> {
    this.onTry();
    const data = await this.encoded(quality, this.chroma(quality, steady));
    return { data, bytes: data.length, width: this.image.picture.width, height: this.image.picture.height };
  }

  /** What qualities would weigh in a search, in bytes, by some bands that are as restless as the picture; null where that is not known sooner than a file is made. */
  expectations(): ((quality: number) => Promise<number>) | null {
    const { image, writer } = this;
    const { weighed } = writer;
    const bands = weighed ? bandsOf(image) : null;
    if (!weighed || !bands) return null;
    const known = new Map<number, Promise<number>>();
    const whole = (bytes: number) => bytes / bands.share + (image.profile?.length ?? 0);
    return (quality) => {
      const bytes = known.get(quality) ?? weighed(bands.picture, quality, this.chroma(quality, true)).then(whole);
      known.set(quality, bytes);
      return bytes;
    };
  }

  /** Whether a quality gives the same file in a search as by itself. */
  isSteady(quality: number): boolean {
    return this.chroma(quality, true) === this.chroma(quality, false);
  }

  /**
   * The pixels of an encoded file, in 8 bits and without transparency.
   * @returns `ownColours`: whether they are in the colours of the picture; if not, the decoder has made sRGB of them
   */
  async decode({ data, width, height }: EncodedFile): Promise<{ picture: Raster<Uint8Array>; ownColours: boolean }> {
    const straight = this.image.model === 'rgb' ? this.writer.pixels?.(data, { width, height }) : null;
    if (straight) return { picture: { width, height, channels: 3, pixels: straight }, ownColours: true };
    let read = await this.writer.open(data, this.convertsColours);
    // Whether the decoder keeps the colours shows with the first file; all others of the picture are as that.
    if (!read.ownColours && !this.convertsColours) {
      this.convertsColours = true;
      read = await this.writer.open(data, true);
    }
    const opened = sharp(read.input, { ignoreIcc: true, limitInputPixels: false });
    const isCmyk = this.image.model === 'cmyk';
    const own = isCmyk ? opened.pipelineColourspace('cmyk').toColourspace('cmyk') : opened.removeAlpha().toColourspace('srgb');
    const { data: pixels, info } = await own.raw().toBuffer({ resolveWithObject: true });
    return { picture: { width: info.width, height: info.height, channels: info.channels, pixels }, ownColours: read.ownColours };
  }

  private chroma(quality: number, steady: boolean): Sampling {
    if (!('chroma' in this.settings)) return '4:4:4';
    const { type, chroma } = this.settings;
    // Where the encoder has its own way, the picture need not be looked at.
    const smears = () => (FILE_TYPES[type].chroma === 'own' ? false : (this.smears ??= this.smear()));
    return steady ? steadySampling(chroma, smears) : chromaSampling(chroma, quality, smears);
  }

  private smear(): boolean {
    const { width, height, pixels, channels } = this.image.picture;
    return pixels instanceof Uint8Array && channels === 3 && chromaSmears({ width, height, pixels });
  }
}

/** Some bands of a picture one above the other, and what part of it they are. */
interface Bands {
  picture: Raster<Uint8Array>;
  share: number;
}

/** Rows of a band: those of the largest block of an encoder. */
const BAND = 16;
const EVERY = 4;
/** Pixels from which it is worth while. */
const LEAST = 500_000;

/** Null for what is small, or not RGB of 8 bits without transparency. */
function bandsOf({ picture, model }: FinishedImage): Bands | null {
  const { width, height, channels, pixels } = picture;
  if (model !== 'rgb' || channels !== 3 || !(pixels instanceof Uint8Array) || width * height < LEAST) return null;
  const count = Math.floor(height / (BAND * EVERY));
  const length = 3 * width * BAND;
  const some = new Uint8Array(count * length);
  for (let band = 0; band < count; band++) {
    // In the middle of those that it stands for.
    const from = (band * EVERY + (EVERY >> 1)) * length;
    some.set(pixels.subarray(from, from + length), band * length);
  }
  return { picture: { width, height: count * BAND, channels, pixels: some }, share: (count * BAND) / height };
}
