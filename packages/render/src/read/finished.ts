import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  annexKTable,
  type FinishedFile,
  type MasterFacts,
  METADATA_GROUPS,
  type MetadataGroup,
  nameOfSpace,
  parseIccProfile,
  plainFrame,
} from '@rundle/core';
import { luminanceTable } from '../types/jpeg/tables';
import { bytesOf } from '../types/type';
import { decode, headerOf } from './decode';
import { readFacts } from './facts';

/**
 * Looks at a finished file: what a preset would have to say so that others become like it.
 * @param name what it is called, where its path does not say so
 * @throws ProblemError when it cannot be read
 */
export async function readFinished(path: string, name = basename(path)): Promise<FinishedFile> {
  const facts = await readFacts(path);
  const header = await headerOf(path, facts.format, facts.page);
  const space = header.icc ? spaceOf(header.icc) : null;
  const { format, width, height, bits, profile, jpegQuality } = facts;
  const isJpeg = format === 'jpeg';
  const sampling = header.chromaSubsampling;
  const ppi = header.density && header.density >= 1 && header.density <= 9999 ? Math.round(header.density) : null;
  return {
    fileName: name,
    type: format,
    width,
    height,
    bits,
    quality: isJpeg && jpegQuality !== null ? { value: jpegQuality, exact: await isScaled(path, jpegQuality) } : null,
    chroma: (isJpeg || format === 'avif') && (sampling === '4:2:0' || sampling === '4:4:4') ? sampling : null,
    progressive: isJpeg ? (header.isProgressive ?? false) : null,
    space,
    profile,
    ppi,
    carries: groupsIn(facts),
    // A colour of the frame is written down as sRGB.
    border: space === null || space === 'srgb' ? plainFrame(await decode(path, facts, '#ffffff')) : null,
  };
}

function spaceOf(icc: Uint8Array): FinishedFile['space'] {
  try {
    const { matrix } = parseIccProfile(icc);
    return (matrix && nameOfSpace(matrix)) ?? 'other';
  } catch {
    return 'other';
  }
}

/** Whether the table of a JPEG is that of the standard, scaled for a quality. */
async function isScaled(path: string, quality: number): Promise<boolean> {
  const file = await open(path, 'r');
  try {
    const table = await luminanceTable(bytesOf(file));
    const inOrder = (values: readonly number[]) => values.toSorted((a, b) => a - b).join();
    return table !== null && inOrder(table) === inOrder(annexKTable(quality));
  } finally {
    await file.close();
  }
}

/** What of the groups has been found, in the fields that are facts and in all others. */
function groupsIn({ carries, rights, title, caption, keywords, captured, camera, gps, rating }: MasterFacts): MetadataGroup[] {
  const found: Partial<Record<MetadataGroup, boolean>> = {
    rights: Object.values(rights).some(Boolean),
    description: Boolean(title ?? caption) || keywords.length > 0,
    capture: Boolean(captured ?? camera),
    place: gps,
    rating: rating !== null,
  };
  return METADATA_GROUPS.filter((group) => found[group] || carries.some((one) => one === group));
}
