import type { FileRung } from '../preset/schema';

/** What is to be known of a file type: extension, media type as registered with IANA, and what it can hold. */
interface FileType {
  extension: string;
  mediaType: string;
  label: string;
  /** Whether it has a quality that can be lowered. */
  lossy: boolean;
  transparency: boolean;
  /** The longest side in px that its format can write down. */
  longest: number;
}

/** The file types an output can have. Limits: ITU-T T.81 B.2.2; RFC 9649, 2.5; AV1 specification 5.9.5; PNG and TIFF by memory. */
export const FILE_TYPES: Record<FileRung['type'], FileType> = {
  jpeg: { extension: 'jpg', mediaType: 'image/jpeg', label: 'JPEG', lossy: true, transparency: false, longest: 65_500 },
  webp: { extension: 'webp', mediaType: 'image/webp', label: 'WebP', lossy: true, transparency: true, longest: 16_383 },
  avif: { extension: 'avif', mediaType: 'image/avif', label: 'AVIF', lossy: true, transparency: true, longest: 16_384 },
  png: { extension: 'png', mediaType: 'image/png', label: 'PNG', lossy: false, transparency: true, longest: 65_500 },
  tiff: { extension: 'tif', mediaType: 'image/tiff', label: 'TIFF', lossy: false, transparency: true, longest: 65_500 },
};
