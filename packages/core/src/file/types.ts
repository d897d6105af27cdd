import type { FileRung } from '../preset/schema';

/** The file types an output can have: extension, and media type as registered with IANA. */
export const FILE_TYPES: Record<FileRung['type'], { extension: string; mediaType: string; label: string }> = {
  jpeg: { extension: 'jpg', mediaType: 'image/jpeg', label: 'JPEG' },
  webp: { extension: 'webp', mediaType: 'image/webp', label: 'WebP' },
  avif: { extension: 'avif', mediaType: 'image/avif', label: 'AVIF' },
  png: { extension: 'png', mediaType: 'image/png', label: 'PNG' },
  tiff: { extension: 'tif', mediaType: 'image/tiff', label: 'TIFF' },
};
