/*
 * What a file type is: how it is known, and, where it can be written, what it can hold, which fields of the preset count for it, and how its
 * weight is expected. What reads and writes it stands in packages/render/src/types.
 */

/** Programs that read or write a type, and the Debian package that has them. */
export interface Programs {
  programs: readonly string[];
  package: string;
}

/** What every type has. */
interface AnyType {
  label: string;
  /** As registered with IANA. */
  mediaType: string;
  /** Extensions that it goes by, in lower case and without the dot; the first is the usual one. */
  extensions: readonly string[];
  /** Whether a file begins like one of this type; {@link SNIFF_BYTES} bytes are enough. */
  begins: (first: Uint8Array) => boolean;
}

/** A type that masters can have. */
export interface ReadableType extends AnyType {
  /** What it takes to read it; null: the engine does so by itself. */
  readBy: Programs | null;
  /** Milliseconds to decode a megapixel, on the machine on which plan/time.ts was measured. */
  decodeMs: number;
}

/** A type that outputs can have. */
export interface WritableType<Settings = unknown> extends AnyType {
  /** What it is for, in one sentence. */
  use: string;
  /** Of its files, without the dot; empty: that of the master. */
  extension: string;
  /** Whether it has a quality that can be lowered. */
  lossy: boolean;
  /** Bits per channel that it can hold. */
  bits: readonly (8 | 16)[];
  transparency: boolean;
  /** Colour models beside RGB that it can carry with their profile. */
  keeps: readonly ('grey' | 'cmyk')[];
  /** Whether it has a place for IPTC-IIM; XMP and EXIF all of them carry. */
  iptc: boolean;
  /** Whether it can leave unsaid what its colours are. */
  untagged: boolean;
  /** The longest side in px that its format can write down. */
  longest: number;
  /**
   * What becomes of chroma: `sampled`, as the preset says; `smart`, always halved, though in a slower way that keeps edges where the preset asks
   * for full chroma; `own`, as the encoder likes; null: it is kept.
   */
  chroma: 'sampled' | 'smart' | 'own' | null;
  /** Its place among those that browsers show, the lightest first; null: none does. */
  inBrowsers: number | null;
  /** Programs that write it and read it again; null: the engine does so by itself. */
  needs: Programs | null;
  /** Milliseconds to encode a megapixel, and to check it, on that machine. */
  encodeMs: number;
  /** Bytes that a file has beside its pixels and its metadata: tables, boxes, the profile sRGB. */
  besidePixels: number;
  /** The File rung as it counts for the type. */
  settings: (rung: FileFields) => Settings;
  /**
   * The logarithm of the bits per pixel to be expected at one size.
   * @param settings what {@link WritableType.settings} gave
   */
  expectedBits: (settings: Settings, scale: WeightScale) => number;
}

/** How many bytes of a file are enough to know its type. */
export const SNIFF_BYTES = 64;

/** The most that a file may weigh, in bytes; quality is never taken below the floor, and what then happens if that is too heavy. */
interface FileCeiling {
  bytes: number;
  floor: number;
  then: 'shrink' | 'exceed' | 'fail';
}

/** The fields of the File rung, which stand side by side in a preset, so that a type can be tried and left again without losing anything. */
export interface FileFields {
  quality: number;
  match: number | null;
  chroma: 'auto' | '4:2:0' | '4:4:4';
  ceiling: FileCeiling | null;
  progressive: boolean;
  bits: 8 | 16;
  compression: 'none' | 'lzw' | 'zip';
}

/** What a type with loss aims at: a quality, or a likeness to the unencoded picture; under a ceiling, if there is one. */
export interface LossyFile {
  aim: { by: 'quality'; quality: number } | { by: 'match'; match: number };
  chroma: FileFields['chroma'];
  ceiling: FileCeiling | null;
}

export const lossyFile = ({ quality, match, chroma, ceiling }: FileFields): LossyFile => ({
  aim: match === null ? { by: 'quality', quality } : { by: 'match', match },
  chroma,
  ceiling,
});

/**
 * How a type follows its own quality, told by the JPEG: at each quality, that of the JPEG by which its weight is as much another as at the quality that is
 * weighed, where the JPEG's is 75. Rising.
 */
export type QualityCurve = readonly (readonly [quality: number, jpeg: number])[];

/** What is known of a picture's weight at one size, as logarithms of bits per pixel; see plan/weight.ts. */
export interface WeightScale {
  /** Of the JPEG at a quality, its chroma sampled as asked. */
  jpeg(quality: number, chroma: FileFields['chroma']): number;
  /** How a weighed type compares with that JPEG. */
  ratio(weighed: 'webp' | 'avif' | 'tiff'): number;
  /** What another quality than the weighed one adds. */
  along(type: 'webp' | 'avif', quality: number, curve: QualityCurve): number;
  /** The chroma that the picture gets at a quality. */
  sampling(quality: number, chroma: FileFields['chroma']): '4:2:0' | '4:4:4';
  /** What aiming at a likeness adds to quality 80. */
  matchStep(match: number): number;
}

/** Whether bytes begin with some others. */
export const beginsWith = (first: Uint8Array, bytes: readonly number[]): boolean => bytes.every((byte, at) => first[at] === byte);
/**
 * The brands of a file of boxes, its own first: what it may be read as (ISO/IEC 14496-12, 4.3). Empty for any other file.
 * @param first its first bytes; of many brands only those that stand in them are told
 */
export function brandsOf(first: Uint8Array): string[] {
  if (lettersOf(first, 4, 8) !== 'ftyp') return [];
  const end = Math.min(first.length, new DataView(first.buffer, first.byteOffset).getUint32(0));
  const brands = [lettersOf(first, 8, 12)];
  for (let at = 16; at + 4 <= end; at += 4) brands.push(lettersOf(first, at, at + 4));
  return brands;
}
/** Bytes as letters. */
export const lettersOf = (first: Uint8Array, from: number, to: number): string => String.fromCharCode(...first.subarray(from, to));
