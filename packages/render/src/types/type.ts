import type { FileHandle } from 'node:fs/promises';
import type { MasterFacts, PixelSize, Raster, RowSource } from '@rundle/core';
import type { Metadata } from 'sharp';
import type { FinishedImage } from '../write/encode';

/** Gives bytes of a file from a place on; fewer at its end. */
export type BytesAt = (position: number, length: number) => Buffer | Promise<Buffer>;

/** Bytes of an open file. */
export const bytesOf =
  (file: FileHandle): BytesAt =>
  async (position, length) => {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, position);
    return buffer.subarray(0, bytesRead);
  };

/** What opens masters of one type. What the type is stands in packages/core/src/types. */
export interface Opener {
  /** Whether it is one, by its header as the decoder tells it. */
  isOf: (header: Metadata) => boolean;
  /** What the decoder is given for it: the file itself, or one that it knows, made of the file. */
  input: (path: string) => string | Promise<Buffer>;
  /** Facts that only this type has. `page`: which one is wanted, from 1; null: the first. */
  facts?: (bytesAt: BytesAt, page: number | null) => Promise<Partial<Pick<MasterFacts, 'jpegQuality' | 'page' | 'pages'>>>;
  /** Whether a file surely has no metadata that describe its picture, so that they need not be looked for. */
  isUndescribed?: (bytesAt: BytesAt) => Promise<boolean>;
  /**
   * The pixels of RGB of 8 bits as they lie in the file, faster than the decoder has them and the same; null where that cannot be.
   * @param size that they have to have, px @param room makes room for so many bytes
   */
  pixels?: (path: string, size: PixelSize, room: (bytes: number) => Uint8Array) => Promise<Uint8Array | null>;
  /** Whether some of its rows can be read without all that comes before them. */
  inRows: boolean;
  /** Its rows one after another, where that is faster than the decoder has them and the same; null where that cannot be. */
  openRows?: (path: string, facts: MasterFacts) => OpenRows | null;
}

/** A picture whose rows are read as they are asked for, until it is closed; a row that cannot be read throws. */
export interface OpenRows extends RowSource {
  close: () => void;
}

/** A finished file as the decoder takes it. */
export interface OpenedFile {
  input: Buffer | string;
  /** The profile that the file was made with; undefined: what the decoder says. */
  profile?: Buffer;
  /** Whether its pixels are in the colours of that profile; if not, its own decoder has converted them. */
  ownColours: boolean;
}

export type Sampling = '4:2:0' | '4:4:4';

/** What writes files of one type, and reads them again. */
export interface Writer<Settings> {
  /**
   * Encodes one picture at different qualities: what does not depend on the quality is done once.
   * @param chroma how it is sampled, where the type samples it
   */
  encoder: (image: FinishedImage, settings: Settings) => (quality: number, chroma: Sampling) => Promise<Buffer>;
  /** @param inSrgb whether pixels that cannot be had in their own colours are to be sRGB */
  open: (file: Buffer | string, inSrgb?: boolean) => Promise<OpenedFile>;
  /** Whether it is one, by its header as the decoder tells it. */
  isOf: (header: Metadata) => boolean;
  /** What of a finished file is not as it was asked for, beside what holds for all types; null: nothing. */
  differs?: (header: Metadata, settings: Settings) => string | null;
  /** A width in px at which a file is read to its end with less work; itself where there is none. */
  readableAt?: (width: number) => number;
  /** Whether a file of RGB can be read to its end; false: it cannot, or that is not known. */
  readsToEnd?: (file: Uint8Array, size: PixelSize) => boolean;
  /** The pixels of a file of RGB of 8 bits, faster than the decoder has them and the same; null where that cannot be. @param size that they have to have, px */
  pixels?: (file: Uint8Array, size: PixelSize) => Uint8Array | null;
  /** Whether its blocks lie on one grid, so that a part which begins on it is encoded as in the whole. */
  onGrid: boolean;
  /** Settings that give the same pixels in less time. */
  quickly?: (settings: Settings) => Settings;
  /** What RGB of 8 bits weighs at a quality, nearly, without a profile and in much less time than the file takes; missing: there is no such way. In bytes. */
  weighed?: (picture: Raster<Uint8Array>, quality: number, chroma: Sampling) => Promise<number>;
  /** The file without what is told beside its picture, where that can be taken away without decoding it. */
  codedPart?: (file: Uint8Array) => Buffer;
  /** The quality that it was encoded with, where the file says so. */
  qualityIn?: (bytesAt: BytesAt) => Promise<number | null>;
  /** How its chroma is sampled, where the file says so. */
  samplingOf?: (header: Metadata) => Sampling | null;
  metadata: {
    /** Where metadata stand apart from the picture: made once, they are put into any number of files. Null: they are written into each. */
    apart: { take: (file: Uint8Array) => Uint8Array; put: (file: Uint8Array, described: Uint8Array) => Buffer } | null;
    /** Tags of its own that say the resolution, beside those of EXIF. */
    resolution?: (ppi: number) => Record<string, number>;
    /** What is left to do when they have been written. */
    after?: (path: string) => Promise<void>;
  };
}

/** A type that the decoder reads as it is. */
export const asItIs = { input: (path: string): string => path, inRows: false };
/** A finished file that the decoder reads as it is. */
export const openedAsItIs = (file: Buffer | string): Promise<OpenedFile> => Promise.resolve({ input: file, ownColours: true });
