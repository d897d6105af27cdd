import type { Part } from '@rundle/core';

/** What the rungs of a preset are called. */
export const RUNG_NAMES: Record<Part, string> = {
  applies: 'Pictures',
  size: 'Size',
  tone: 'Tone',
  colour: 'Colour',
  sharpen: 'Sharpness',
  mark: 'Mark',
  print: 'Print',
  file: 'File',
  metadata: 'Metadata',
  name: 'Name',
  folder: 'Folder',
};
