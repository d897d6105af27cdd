import type { MasterFacts } from '../facts/facts';
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
export function expectedBytes(facts: Pick<MasterFacts, 'proxy'>, output: PixelSize, file: FileRung): number {
  const proxy = facts.proxy ?? { width: PROXY_EDGE, height: 341, bytes: Math.round(PROXY_EDGE * 341 * ORDINARY) };
  const grown = ((output.width * output.height) / (proxy.width * proxy.height)) ** SPREAD;
  const bytes = Math.round(proxy.bytes * grown * (qualityFactor(file.quality) / qualityFactor(PROXY_QUALITY)));
  return file.ceiling ? Math.min(bytes, file.ceiling.bytes) : bytes;
}

/**
 * How weight follows JPEG quality. The scale factor of the quantisation tables is the usual one of the Independent JPEG
 * Group's encoder (5000/q below 50, 200 - 2q above); bytes fall with about its 0.6th power.
 */
function qualityFactor(quality: number): number {
  const scale = quality < 50 ? 5000 / quality : 200 - 2 * quality;
  return Math.max(4, scale) ** -0.6;
}
