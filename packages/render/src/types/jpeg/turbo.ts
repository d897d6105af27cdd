import { createHash } from 'node:crypto';
import type { PixelSize } from '@rundle/core';
import { Scratch } from '../../scratch';
import { callsLibraries, libraryOf } from '../libraries';
import type { Sampling } from '../type';

/*
 * Debian's libturbojpeg, called straight: the same decoder and encoder as libvips has, and the same bits, but into memory that is used again. Half of
 * what libvips takes for a large JPEG is new memory. Where it is missing, or says anything at all, libvips does the work, and what it says holds.
 */

const LIBRARY = 'libturbojpeg.so.0';

// turbojpeg.h of libjpeg-turbo 2.1.
const PIXELS_RGB = 0;
const SAMPLED: Record<Sampling, number> = { '4:4:4': 0, '4:2:0': 2 };
const COLOURS_RGB = 0;
const COLOURS_YCBCR = 1;
const NO_REALLOC = 1024;
const ACCURATE_DCT = 4096;
const STOP_ON_WARNING = 8192;
const PROGRESSIVE = 16_384;
const LIMIT_SCANS = 32_768;

/** What its own JFIF header takes, behind the two bytes of SOI. Ours is written with the rest of the metadata. */
const OWN_HEADER = 18;

type Handle = unknown;
type Out<T> = [T];

interface Calls {
  initDecompress: () => Handle;
  initCompress: () => Handle;
  // prettier-ignore
  header: (handle: Handle, jpeg: Uint8Array, bytes: number, width: Out<number>, height: Out<number>, sampling: Out<number>, colours: Out<number>) => number;
  // prettier-ignore
  decompress: (handle: Handle, jpeg: Uint8Array, bytes: number, to: Uint8Array, width: number, pitch: number, height: number, pixels: number, flags: number) => number;
  // prettier-ignore
  compress: (handle: Handle, from: Uint8Array, width: number, pitch: number, height: number, pixels: number, to: Out<Uint8Array>, bytes: Out<number>, sampling: number, quality: number, flags: number) => number;
  mostBytes: (width: number, height: number, sampling: number) => number;
}

/**
 * Has the encoder make the shortest tables for baseline files, too, as libvips has it: this version asks the environment. To be called in a program's
 * main thread, since others have an environment of their own; without it, those files are encoded by libvips.
 */
export function askForShortestTables(): void {
  process.env['TJ_OPTIMIZE'] = '1';
}

/** Undefined: not tried yet. */
let loaded: TurboJpeg | null | undefined;

/** The library, where it is there and wanted. */
export function turboJpeg(): TurboJpeg | null {
  if (!callsLibraries()) return null;
  if (loaded === undefined) loaded = TurboJpeg.load();
  return loaded;
}

/** A picture of noise and slopes, whose chroma is not a whole number of blocks. */
export function probePicture(): PixelSize & { pixels: Uint8Array } {
  const [width, height] = [75, 51];
  const pixels = new Uint8Array(3 * width * height);
  let state = 1;
  for (let at = 0; at < pixels.length; at++) {
    state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
    pixels[at] = ((state >> 16) & 63) + ((at >> 3) & 127) + (at % 3 === 2 ? 60 : 0);
  }
  return { width, height, pixels };
}

export const PROBE_QUALITY = 77;
/** SHA-256 of the probe as sharp's libvips encodes it, progressive and 4:2:0, and of what it decodes that to; a test holds both against it. */
export const PROBE_FILE = '985acd283e62475460392335ee125ed6eb60aca23e1d4c1f187e4015d00adea5';
export const PROBE_PIXELS = '68197792fd252a149fc5e6a04eb90fc8f7ae5fc15fdd9d828171bc4efc4c777c';
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Every call gives null where the library has anything to say: then libvips is asked. */
export class TurboJpeg {
  private readonly decoder: Handle;
  /** A handle that has encoded in one way writes broken files in the other. */
  private readonly encoders = new Map<boolean, Handle>();
  private readonly encoded = new Scratch();
  private readonly small = new Scratch();
  private readonly hasShortestTables: boolean;

  private constructor(private readonly calls: Calls) {
    this.decoder = calls.initDecompress();
    // Of a picture of one colour the tables are nearly all; the standard's own (T.81, annex K.3) take 432 bytes.
    const probe = this.compress({ width: 16, height: 16 }, new Uint8Array(768), 80, '4:4:4', false);
    this.hasShortestTables = probe !== null && probe.length < 432;
  }

  /** Null where it is not installed, cannot be called on this machine, or is of a version that gives other bits than libvips does. */
  static load(): TurboJpeg | null {
    try {
      const library = libraryOf(LIBRARY);
      const sizes = '_Out_ int*, _Out_ int*, _Out_ int*, _Out_ int*';
      const call = (declaration: string) => library.func(declaration) as unknown;
      const turbo = new TurboJpeg({
        initDecompress: call('void* tjInitDecompress()'),
        initCompress: call('void* tjInitCompress()'),
        header: call(`int tjDecompressHeader3(void*, uint8_t*, unsigned long, ${sizes})`),
        decompress: call('int tjDecompress2(void*, uint8_t*, unsigned long, uint8_t*, int, int, int, int, int)'),
        compress: call('int tjCompress2(void*, uint8_t*, int, int, int, int, _Inout_ void**, _Inout_ unsigned long*, int, int, int)'),
        mostBytes: call('unsigned long tjBufSize(int, int, int)'),
      } as Calls);
      return turbo.isAsExpected() ? turbo : null;
    } catch {
      return null;
    }
  }

  /** Whether a picture comes out of it as out of the encoder and the decoder that every output is made with. */
  private isAsExpected(): boolean {
    const picture = probePicture();
    const file = this.encode(picture, picture.pixels, PROBE_QUALITY, '4:2:0', true);
    const pixels = file && this.decode(file, picture, (bytes) => new Uint8Array(bytes));
    return file !== null && pixels !== null && sha256(file) === PROBE_FILE && sha256(pixels) === PROBE_PIXELS;
  }

  /**
   * The pixels of an RGB JPEG as it lies in its file.
   * @param size that it has to have, px
   * @param room makes room for so many bytes
   */
  decode(jpeg: Uint8Array, size: PixelSize, room: (bytes: number) => Uint8Array): Uint8Array | null {
    if (!this.isRgb(jpeg, size)) return null;
    const { width, height } = size;
    const to = room(3 * width * height);
    const flags = ACCURATE_DCT | STOP_ON_WARNING | LIMIT_SCANS;
    return this.calls.decompress(this.decoder, jpeg, jpeg.length, to, width, 3 * width, height, PIXELS_RGB, flags) === 0 ? to : null;
  }

  /** Whether an RGB JPEG can be read to its end: every coefficient is, but only every eighth pixel is worked out. */
  readsToEnd(jpeg: Uint8Array, size: PixelSize): boolean {
    if (!this.isRgb(jpeg, size)) return false;
    const width = Math.ceil(size.width / 8);
    const height = Math.ceil(size.height / 8);
    const to = new Uint8Array(this.small.take(3 * width * height));
    const flags = STOP_ON_WARNING | LIMIT_SCANS;
    return this.calls.decompress(this.decoder, jpeg, jpeg.length, to, width, 3 * width, height, PIXELS_RGB, flags) === 0;
  }

  /** RGB of 8 bits as a JPEG without anything that describes it; null where its tables would not be the shortest. */
  encode(size: PixelSize, pixels: Uint8Array, quality: number, sampling: Sampling, progressive: boolean): Buffer | null {
    if (!progressive && !this.hasShortestTables) return null;
    const jpeg = this.compress(size, pixels, quality, sampling, progressive);
    return jpeg && Buffer.concat([jpeg.subarray(0, 2), jpeg.subarray(2 + OWN_HEADER)]);
  }

  /** @returns what is valid until the next call */
  private compress(
    { width, height }: PixelSize,
    pixels: Uint8Array,
    quality: number,
    sampling: Sampling,
    progressive: boolean,
  ): Uint8Array | null {
    const { calls, encoders } = this;
    const handle = encoders.get(progressive) ?? calls.initCompress();
    encoders.set(progressive, handle);
    const to = new Uint8Array(this.encoded.take(calls.mostBytes(width, height, SAMPLED[sampling])));
    const bytes: Out<number> = [to.length];
    const flags = ACCURATE_DCT | NO_REALLOC | (progressive ? PROGRESSIVE : 0);
    const failed = calls.compress(handle, pixels, width, 3 * width, height, PIXELS_RGB, [to], bytes, SAMPLED[sampling], quality, flags);
    return failed ? null : to.subarray(0, bytes[0]);
  }

  private isRgb(jpeg: Uint8Array, { width, height }: PixelSize): boolean {
    const [w, h, sampling, colours]: [Out<number>, Out<number>, Out<number>, Out<number>] = [[0], [0], [0], [0]];
    if (this.calls.header(this.decoder, jpeg, jpeg.length, w, h, sampling, colours) !== 0) return false;
    return w[0] === width && h[0] === height && (colours[0] === COLOURS_RGB || colours[0] === COLOURS_YCBCR);
  }
}
