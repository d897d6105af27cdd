import type { MetadataPlan } from '@rundle/core';
import { exifTool } from '../read/exiftool';

/**
 * Writes metadata into a finished file that carries none yet, consistently in EXIF, IPTC-IIM and XMP.
 * @param path the file, changed in place
 * @param master the file that fields are copied from
 * @param ppi resolution tag, pixels per inch; null keeps the master’s
 * @throws Error when the file cannot be written
 */
export async function embedMetadata(path: string, master: string, plan: MetadataPlan, ppi: number | null): Promise<void> {
  const copies = plan.copy.length
    ? ['-TagsFromFile', master, ...plan.copy.map((tag) => `-${tag}`), ...plan.leave.map((tag) => `--${tag}`)]
    : [];
  const kept = ppi === null ? ['-TagsFromFile', master, ...RESOLUTION.map((tag) => `-${tag}`)] : [];
  const tags: Record<string, unknown> = { ...plan.set, ...resolutionTags(ppi) };
  if (Object.keys(plan.set).some((tag) => tag.startsWith('IPTC:'))) tags['IPTC:CodedCharacterSet'] = 'UTF8';
  await exifTool().write(path, tags, {
    writeArgs: ['-overwrite_original', '-m', ...copies, ...kept],
    useMWG: false,
  });
}

const RESOLUTION = [
  'IFD0:XResolution',
  'IFD0:YResolution',
  'IFD0:ResolutionUnit',
  'JFIF:XResolution',
  'JFIF:YResolution',
  'JFIF:ResolutionUnit',
];

/** EXIF and JFIF say the same; unit 2 (EXIF) and 1 (JFIF) are inches. */
function resolutionTags(ppi: number | null): Record<string, number> {
  if (ppi === null) return {};
  return {
    'IFD0:XResolution#': ppi,
    'IFD0:YResolution#': ppi,
    'IFD0:ResolutionUnit#': 2,
    'JFIF:XResolution#': Math.round(ppi),
    'JFIF:YResolution#': Math.round(ppi),
    'JFIF:ResolutionUnit#': 1,
  };
}
