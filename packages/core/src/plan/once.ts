import * as z from 'zod';
import { FolderPath } from '../name/folder';
import { whole } from '../preset/fields';
import type { Preset } from '../preset/schema';
import { FILE_TYPES } from '../file/types';

/** Values of a preset that are another for one set, until they are cleared or saved. */
export const Once = z
  .strictObject({
    px: whole(1, 65_500).meta({ title: 'Long edge' }),
    quality: whole(1, 100).meta({ title: 'Quality' }),
    folder: FolderPath.meta({ title: 'Folder' }),
  })
  .partial()
  .meta({ id: 'Once' });
export type Once = z.infer<typeof Once>;

/** What is varied this once, by the id of its preset. */
export const OnceByPreset = z.record(z.uuid(), Once);
export type OnceByPreset = z.infer<typeof OnceByPreset>;

/** Sizes that are one length along one edge. */
const BY_LENGTH: readonly Preset['size']['fit'][] = ['long-edge', 'short-edge', 'width', 'height'];

/** Which values of a preset can be varied: those that count for it. */
export function variable({ size, file }: Preset): (keyof Once)[] {
  return [
    ...(BY_LENGTH.includes(size.fit) && file.type !== 'original' ? ['px' as const] : []),
    ...(FILE_TYPES[file.type].lossy ? ['quality' as const] : []),
    'folder',
  ];
}

/**
 * A preset as it is carried out this once. A quality goes before a likeness that is aimed at; what does not count for the preset is
 * passed over.
 */
export function varied(preset: Preset, once: Once | undefined): Preset {
  if (!once) return preset;
  const can = variable(preset);
  const { px, quality, folder } = once;
  return {
    ...preset,
    size: px !== undefined && can.includes('px') ? { ...preset.size, px, unit: 'px' } : preset.size,
    file: quality !== undefined && can.includes('quality') ? { ...preset.file, quality, match: null } : preset.file,
    folder: folder ?? preset.folder,
  };
}

/** Whether anything is varied. */
export const isVaried = (once: Once | undefined): boolean => once !== undefined && Object.values(once).some((value) => value !== undefined);
