import * as z from 'zod';
import { decimal, flag, hexColour, line, oneOf, whole } from '../preset/fields';

/*
 * What makes several files of a picture, or more of its edges: fields of the preset file, version 1.
 */

export const LENGTH_UNITS = ['px', 'cm', 'in'] as const;
export type LengthUnit = (typeof LENGTH_UNITS)[number];

/** The most files that a preset makes of one picture. */
export const MOST_PARTS = 100;

export const PanelsRung = z
  .strictObject({
    columns: whole(1, 20).nullable().default(null).meta({ description: 'How many stand side by side' }),
    rows: whole(1, 20).nullable().default(null).meta({ description: 'How many lie one below the other' }),
    width: decimal(0.01, 65_500).nullable().default(null).meta({ description: 'Width of each, in `unit`, instead of their number' }),
    height: decimal(0.01, 65_500).nullable().default(null).meta({ description: 'Height of each, in `unit`' }),
    unit: oneOf(LENGTH_UNITS).default('px').meta({ description: 'Unit of the lengths; cm and in use `size.ppi`' }),
    overlap: decimal(-10_000, 10_000)
      .default(0)
      .meta({ description: 'What neighbours have in common, in `unit`; negative: a gap that is left out between them' }),
    order: oneOf(['rows', 'columns']).default('rows').meta({ description: 'Whether they are counted row by row or column by column' }),
  })
  .superRefine(({ columns, rows, width, height, unit, overlap }, context) => {
    const wrong = (field: string, message: string, input: unknown) => context.addIssue({ code: 'custom', path: [field], message, input });
    if (width === null && height === null) {
      if (columns === null) wrong('columns', 'a number of columns, or a width and a height', columns);
      else if (rows === null) wrong('rows', 'a number of rows, beside the columns', rows);
    } else if (columns !== null || rows !== null) wrong('columns', 'null, because each panel has a width and a height', columns);
    else if (width === null) wrong('width', 'a width, beside the height', width);
    else if (height === null) wrong('height', 'a height, beside the width', height);
    else if (overlap >= Math.min(width, height)) wrong('overlap', 'less than a panel is wide and high', overlap);
    if (columns !== null && rows !== null && columns * rows > MOST_PARTS) wrong('rows', `at most ${MOST_PARTS} panels together`, rows);
    if (unit === 'px')
      for (const [field, value] of Object.entries({ width, height, overlap }))
        if (value !== null && !Number.isInteger(value)) wrong(field, 'a whole number of px', value);
  });
export type PanelsRung = z.infer<typeof PanelsRung>;

/** What fills the edges of a canvas, beside a colour. */
export const EDGE_FILLS = ['mirror', 'soft-mirror', 'stretch'] as const;
export type EdgeFill = (typeof EDGE_FILLS)[number];

export const CanvasRung = z
  .strictObject({
    width: decimal(0.01, 5000).meta({ description: 'Added on each side, in `unit`' }),
    unit: oneOf(LENGTH_UNITS).default('in').meta({ description: 'Unit of the width; cm and in use `size.ppi`' }),
    fill: z
      .union([z.enum(EDGE_FILLS), hexColour()], { error: '"mirror", "soft-mirror", "stretch" or a colour such as "#ffffff"' })
      .default('mirror')
      .meta({ description: 'What the edges show: the picture mirrored, mirrored and softer outwards, its outermost pixels, or a colour' }),
    opacity: decimal(0, 1).default(1).meta({ description: 'Of the edges, over the backdrop' }),
    marks: flag().default(false).meta({ description: 'Lines in the corners where the picture ends' }),
  })
  .superRefine(({ width, unit }, context) => {
    if (unit === 'px' && !Number.isInteger(width))
      context.addIssue({ code: 'custom', path: ['width'], message: 'a whole number of px', input: width });
  });
export type CanvasRung = z.infer<typeof CanvasRung>;

/** What a size of a family is called: it stands in names, so that it has no separators. */
export const SizeLabel = line(40, 1)
  .regex(/^[^/\\]*$/, { error: 'text without "/" and "\\"' })
  .refine((label) => label.trim() === label, { error: 'text without a space at its ends' });

/** Of labels that differ in case only, names would be the same on some disks. */
export const sameLabel = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();
