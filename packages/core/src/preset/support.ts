import type { Problem } from '../problem';
import type { Preset } from './schema';

/**
 * What a valid preset asks for that this engine cannot do yet. Such a preset is refused, never rendered without it.
 * @returns one problem of code `unsupported` per field; empty when everything can be done
 */
export function unsupported(preset: Preset): Problem[] {
  const asked: [boolean, string, string][] = [
    [preset.size.light === 'linear', 'size.light', 'averaging in linear light'],
    [preset.size.anchor === 'detail' && preset.size.fit === 'cover', 'size.anchor', 'cropping to the detail'],
    [preset.colour.space !== 'srgb', 'colour.space', `colours other than sRGB in the output`],
    [preset.colour.untagged !== 'srgb', 'colour.untagged', `masters without a profile as ${preset.colour.untagged}`],
    [preset.mark !== null, 'mark', 'a watermark'],
    [preset.file.match !== null, 'file.match', 'a visual target'],
    [preset.file.type !== 'jpeg', 'file.type', `the file type ${preset.file.type}`],
  ];
  return asked
    .filter(([is]) => is)
    .map(([, field, what]) => ({
      code: 'unsupported',
      field,
      message: `This version cannot do ${what} (${field}) yet. Change the field, or use a later version.`,
    }));
}
