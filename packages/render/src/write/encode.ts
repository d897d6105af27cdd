import {
  chromaSampling,
  chromaSmears,
  type EncodedFileByType,
  steadySampling,
  type GamutLoss,
  type Halo,
  type LossyFile,
  type PixelSize,
  type Raster,
} from '@rundle/core';
import sharp, { type Sharp } from 'sharp';
import { decodeJpegXl, encodeJpegXl } from './jpeg-xl';
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
  private smears: boolean | undefined;
  private png: Promise<Buffer> | undefined;
  private convertsColours = false;

  /** @param onTry called before each encode; what it throws ends the work */
  constructor(
    readonly image: FinishedImage,
    private readonly settings: EncodedFileByType,
    private readonly onTry: () => void = () => {},
  ) {}

  /**
   * @param quality 1-100; of no effect for types without loss
   * @param steady for searches: the sampling of chroma is that of the picture at every quality, so that the weight makes no step
   */
  async encode(quality: number, steady = false): Promise<EncodedFile> {
    this.onTry();
    const { settings } = this;
    const data =
      settings.type === 'jxl'
        ? await encodeJpegXl(await (this.png ??= this.asPng()), quality)
        : await this.as(settings, quality, steady).toBuffer();
    return { data, bytes: data.length, width: this.image.picture.width, height: this.image.picture.height };
  }

  /** Whether a quality gives the same file in a search as by itself. */
  isSteady(quality: number): boolean {
    const { settings } = this;
    return !('chroma' in settings) || this.chroma(settings, quality, true) === this.chroma(settings, quality, false);
  }

  /**
   * The pixels of an encoded file, in 8 bits and without transparency.
   * @returns `ownColours`: whether they are in the colours of the picture; if not, the decoder has made sRGB of them
   */
  async decode({ data }: EncodedFile): Promise<{ picture: Raster<Uint8Array>; ownColours: boolean }> {
    const { png, ownColours } = this.settings.type === 'jxl' ? await this.decodeJpegXl(data) : { png: data, ownColours: true };
    const opened = sharp(png, { ignoreIcc: true, limitInputPixels: false });
    const isCmyk = this.image.model === 'cmyk';
    const own = isCmyk ? opened.pipelineColourspace('cmyk').toColourspace('cmyk') : opened.removeAlpha().toColourspace('srgb');
    const { data: pixels, info } = await own.raw().toBuffer({ resolveWithObject: true });
    return { picture: { width: info.width, height: info.height, channels: info.channels, pixels }, ownColours };
  }

  /** Whether the decoder keeps the colours shows with the first file; all others of the picture are as that. */
  private async decodeJpegXl(data: Buffer): Promise<{ png: Buffer; ownColours: boolean }> {
    if (!this.convertsColours) {
      const decoded = await decodeJpegXl(data);
      if (decoded.ownColours) return decoded;
      this.convertsColours = true;
    }
    return { ...(await decodeJpegXl(data, { inSrgb: true })), ownColours: false };
  }

  private open(): Sharp {
    const opened = sharp(this.image.file, { ignoreIcc: true, limitInputPixels: false });
    return this.image.profile ? opened.keepIccProfile() : opened;
  }

  private asPng(): Promise<Buffer> {
    const { model } = this.image;
    return this.open()
      .toColourspace(model === 'grey' ? 'b-w' : 'srgb')
      .png({ compressionLevel: 0 })
      .toBuffer();
  }

  private as(settings: Exclude<EncodedFileByType, { type: 'jxl' }>, quality: number, steady: boolean): Sharp {
    const { model } = this.image;
    const opened = this.open();
    const image =
      model === 'cmyk' ? opened.pipelineColourspace('cmyk').toColourspace('cmyk') : model === 'grey' ? opened.toColourspace('b-w') : opened;
    const inBits = (bits: 8 | 16) => (bits === 16 && model !== 'cmyk' ? image.toColourspace(model === 'grey' ? 'grey16' : 'rgb16') : image);
    switch (settings.type) {
      case 'jpeg':
        return image.jpeg({ quality, progressive: settings.progressive, chromaSubsampling: this.chroma(settings, quality, steady) });
      case 'webp':
        // WebP always halves chroma; the slower way to do it keeps saturated edges.
        return image.webp({ quality, effort: 4, smartSubsample: this.chroma(settings, quality, steady) === '4:4:4' });
      case 'avif':
        return image.avif({ quality, effort: 2, chromaSubsampling: this.chroma(settings, quality, steady) });
      case 'png':
        return inBits(settings.bits).png({ compressionLevel: 7, adaptiveFiltering: true });
      case 'tiff':
        return inBits(settings.bits).tiff(TIFF[settings.compression]);
    }
  }

  private chroma({ chroma }: LossyFile, quality: number, steady: boolean): '4:2:0' | '4:4:4' {
    const smears = () => (this.smears ??= this.smear());
    return steady ? steadySampling(chroma, smears) : chromaSampling(chroma, quality, smears);
  }

  private smear(): boolean {
    const { width, height, pixels, channels } = this.image.picture;
    return pixels instanceof Uint8Array && channels === 3 && chromaSmears({ width, height, pixels });
  }
}

/** The predictor of TIFF 6.0, section 14 makes photographs a fifth lighter. */
const TIFF = {
  none: { compression: 'none' },
  lzw: { compression: 'lzw', predictor: 'horizontal' },
  zip: { compression: 'deflate', predictor: 'horizontal' },
} as const;
