import type { Ceiling, FileRung } from '../preset/schema';

/** What a type with loss aims at: a quality, or a likeness to the unencoded picture; under a ceiling, if there is one. */
export interface LossyFile {
  aim: { by: 'quality'; quality: number } | { by: 'match'; match: number };
  chroma: FileRung['chroma'];
  ceiling: Ceiling | null;
}

/**
 * The File rung as it counts for its type. In a preset the fields of all types stand side by side, so that a type can be tried and left again
 * without losing anything; what makes files sees only what there is.
 */
export type FileByType =
  | ({ type: 'jpeg'; progressive: boolean } & LossyFile)
  | ({ type: 'webp' } & LossyFile)
  | ({ type: 'avif' } & LossyFile)
  | ({ type: 'jxl' } & LossyFile)
  | { type: 'png'; bits: 8 | 16 }
  | { type: 'tiff'; bits: 8 | 16; compression: FileRung['compression'] }
  /** The master’s own bytes. */
  | { type: 'original' };

/** What an encoder makes. */
export type EncodedFileByType = Exclude<FileByType, { type: 'original' }>;

export function fileByType({ type, quality, match, chroma, ceiling, progressive, bits, compression }: FileRung): FileByType {
  const lossy: LossyFile = { aim: match === null ? { by: 'quality', quality } : { by: 'match', match }, chroma, ceiling };
  switch (type) {
    case 'jpeg':
      return { type, progressive, ...lossy };
    case 'webp':
    case 'avif':
    case 'jxl':
      return { type, ...lossy };
    case 'png':
      return { type, bits };
    case 'tiff':
      return { type, bits, compression };
    case 'original':
      return { type };
  }
}
