import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { type PixelSize, type Preset, ProblemError } from '@rundle/core';
import sharp from 'sharp';

/**
 * Opens a finished file again and holds it against what was promised.
 * @param path the file, still aside
 * @param name what it will be called, for the message
 * @returns its weight in bytes
 * @throws ProblemError `check-failed` that names the first difference
 */
export async function verifyOutput(path: string, name: string, preset: Preset, size: PixelSize, most: number | null): Promise<number> {
  const { size: bytes } = await stat(path);
  const { format, width, height, icc, orientation } = await sharp(path).metadata();
  const differences: [boolean, string][] = [
    [format !== preset.file.type, `its type is ${format}, not ${preset.file.type}`],
    [width !== size.width || height !== size.height, `it has ${width} x ${height} px, not ${size.width} x ${size.height}`],
    [(icc !== undefined) !== preset.colour.embed, preset.colour.embed ? 'the profile is missing' : 'it carries a profile'],
    [(orientation ?? 1) !== 1, 'its orientation tag is not 1'],
    [most !== null && bytes > most, `it weighs ${bytes} bytes, more than ${most}`],
  ];
  const found = differences.find(([differs]) => differs);
  if (found)
    throw new ProblemError({
      ...{ code: 'check-failed', file: basename(name) },
      message: `${name} did not pass the check after writing: ${found[1]}. Nothing was kept; please run again.`,
    });
  return bytes;
}
