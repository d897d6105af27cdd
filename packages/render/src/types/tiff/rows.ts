import type { MasterFacts } from '@rundle/core';
import { callsLibraries, libraryOf } from '../libraries';
import type { OpenRows } from '../type';

/*
 * Debian's libtiff, called straight, for one row after another of a large TIFF: libvips begins at the top of the file for each part of it, or keeps all of
 * it. Where it is missing, or says anything at all, libvips does the work, and what it says holds.
 */

const LIBRARY = 'libtiff.so.6';

/** Tags of TIFF 6.0, section 8, and the values of them that are read here. */
const WANTED: readonly (readonly [tag: number, value: number])[] = [
  [258, 16], // BitsPerSample
  [262, 2], // PhotometricInterpretation: RGB
  [277, 3], // SamplesPerPixel
  [284, 1], // PlanarConfiguration: chunky
  [339, 1], // SampleFormat: whole numbers
];
const [WIDTH, HEIGHT] = [256, 257];

type Handle = unknown;

interface Calls {
  // Not by way of a map of memory, which a file that is cut off meanwhile would end the program by.
  open: (path: string, mode: 'rm') => Handle;
  close: (tiff: Handle) => void;
  setDirectory: (tiff: Handle, page: number) => number;
  field: (tiff: Handle, tag: number, type: 'void *', to: Uint8Array) => number;
  isTiled: (tiff: Handle) => number;
  bytesOfRow: (tiff: Handle) => number;
  readRow: (tiff: Handle, to: Uint8Array, row: number, sample: number) => number;
}

/** Undefined: not tried yet. */
let loaded: Calls | null | undefined;

function load(): Calls | null {
  try {
    const library = libraryOf(LIBRARY);
    const call = (declaration: string) => library.func(declaration) as unknown;
    // It would write what it has to say to the program's own errors.
    for (const kind of ['Error', 'Warning']) (call(`void* TIFFSet${kind}Handler(void*)`) as (handler: null) => void)(null);
    return {
      open: call('void* TIFFOpen(const char*, const char*)'),
      close: call('void TIFFClose(void*)'),
      setDirectory: call('int TIFFSetDirectory(void*, uint32_t)'),
      field: call('int TIFFGetFieldDefaulted(void*, uint32_t, ...)'),
      isTiled: call('int TIFFIsTiled(void*)'),
      bytesOfRow: call('int64_t TIFFScanlineSize(void*)'),
      readRow: call('int TIFFReadScanline(void*, void*, uint32_t, uint16_t)'),
    } as Calls;
  } catch {
    return null;
  }
}

/** A TIFF of RGB of 16 bits in strips, row by row as it lies in its file; null for any other, and where the library is not there. */
export function openTiffRows(path: string, { page, width, height }: Pick<MasterFacts, 'page' | 'width' | 'height'>): OpenRows | null {
  if (!callsLibraries()) return null;
  if (loaded === undefined) loaded = load();
  const calls = loaded;
  const tiff = calls?.open(path, 'rm');
  if (!calls || !tiff) return null;
  const words = new Uint32Array(2);
  const value = (tag: number) => (calls.field(tiff, tag, 'void *', new Uint8Array(words.fill(0).buffer)) === 1 ? words[0] : null);
  const isReadable =
    (page === 0 || calls.setDirectory(tiff, page) === 1) &&
    value(WIDTH) === width &&
    value(HEIGHT) === height &&
    WANTED.every(([tag, wanted]) => value(tag) === wanted) &&
    calls.isTiled(tiff) === 0 &&
    calls.bytesOfRow(tiff) === 6 * width;
  if (!isReadable) {
    calls.close(tiff);
    return null;
  }
  const bytes = new Uint8Array(6 * width);
  let last = -1;
  const row = (y: number) => {
    if (y !== last && calls.readRow(tiff, bytes, y, 0) !== 1) throw new Error(`row ${y} cannot be read`);
    last = y;
    return bytes;
  };
  return { width, height, channels: 3, bytesPerSample: 2, row, close: () => calls.close(tiff) };
}
