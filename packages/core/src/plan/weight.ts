import type { MasterFacts } from '../facts/facts';
import { type EncodedFileByType, fileByType, type LossyFile } from '../file/by-type';
import type { FileRung } from '../preset/schema';
import type { PixelSize } from '../size/geometry';

/*
 * What an output will weigh can only be expected, and screens say "about". The picture's own proxy tells how busy it is;
 * the constants below were fitted to photographs of the demo set.
 */

/** Quality the proxy is encoded with. */
export const PROXY_QUALITY = 80;
/** Long edge of the proxy in px. */
export const PROXY_EDGE = 512;

/** Larger pictures need fewer bytes per pixel: detail spreads out. Bytes grow with pixels to this power. */
const SPREAD = 0.87;

/** Bytes per pixel of an ordinary photograph at the proxy's size and quality, for masters without a proxy. */
const ORDINARY = 0.19;

/**
 * The expected weight of an output in bytes.
 * @param facts the master's facts, with its proxy where there is one
 * @param output size of the output in px
 * @param file the File rung
 */
export function expectedBytes(facts: Pick<MasterFacts, 'proxy' | 'bytes'>, output: PixelSize, file: FileRung): number {
  const settings = fileByType(file);
  if (settings.type === 'original') return facts.bytes;
  const proxy = facts.proxy ?? { width: PROXY_EDGE, height: 341, bytes: Math.round(PROXY_EDGE * 341 * ORDINARY) };
  const grown = ((output.width * output.height) / (proxy.width * proxy.height)) ** SPREAD;
  // What the picture would weigh as a JPEG of the proxy's quality; the type and its settings make more or less of it.
  const bytes = Math.round(Math.min(uncompressed(output, file.bits), proxy.bytes * grown * typeFactor(settings)));
  return file.ceiling ? Math.min(bytes, file.ceiling.bytes) : bytes;
}

const uncompressed = ({ width, height }: PixelSize, bits: number): number => width * height * 3 * (bits / 8) + 1000;

/** Weight against that of a JPEG of quality {@link PROXY_QUALITY}. */
function typeFactor(file: EncodedFileByType): number {
  switch (file.type) {
    case 'jpeg':
    case 'avif':
      return lossyFactor(file);
    case 'webp':
      return 0.7 * lossyFactor(file);
    case 'jxl':
      return 0.5 * lossyFactor(file);
    case 'png':
      return file.bits === 8 ? 10.6 : 37;
    case 'tiff':
      return file.compression === 'none' ? Infinity : file.bits === 8 ? 11.4 : file.compression === 'zip' ? 37 : 49;
  }
}

/** Of a JPEG. 0.985 halves the weight; the nearer to 1, the more it takes. */
function lossyFactor({ aim }: LossyFile): number {
  if (aim.by === 'match') return 0.48 * (0.015 / Math.max(1e-4, 1 - aim.match)) ** 0.5;
  return qualityFactor(aim.quality) / qualityFactor(PROXY_QUALITY);
}

/**
 * How weight follows JPEG quality. The scale factor of the quantisation tables is the usual one of the Independent JPEG
 * Group's encoder (5000/q below 50, 200 - 2q above); bytes fall with about its 0.6th power.
 */
function qualityFactor(quality: number): number {
  const scale = quality < 50 ? 5000 / quality : 200 - 2 * quality;
  return Math.max(4, scale) ** -0.6;
}
