import * as z from 'zod';
import { fieldAt } from './descriptors';
import { Preset } from './schema';

/**
 * What people call a field: for presets the label of its descriptor, for other schemas the `title` among the field's metadata.
 * @param path keys and indexes joined by dots, as in `rights.creator`
 * @returns undefined for a field that is not meant for people
 * @example labelAt(HouseRules, 'mostPixels') // 'Longest side at most'
 */
export function labelAt(schema: z.ZodType, path: string): string | undefined {
  if (schema === Preset) return fieldAt(path)?.label;
  let at: z.ZodType | undefined = schema;
  let label: string | undefined;
  for (const key of path.split('.')) {
    const parent: z.ZodType | undefined = at && unwrapped(at);
    if (parent instanceof z.ZodObject) at = parent.shape[key] as z.ZodType | undefined;
    else if (parent instanceof z.ZodArray && /^\d+$/.test(key)) at = parent.element as z.ZodType;
    else if (parent instanceof z.ZodUnion)
      at = (parent.options as z.ZodType[]).flatMap((option) =>
        option instanceof z.ZodObject && key in option.shape ? [option.shape[key] as z.ZodType] : [],
      )[0];
    else return undefined;
    if (!at) return undefined;
    label = titleOf(at) ?? (parent instanceof z.ZodArray ? label : undefined);
  }
  return label;
}

/** The `title` of a schema or of what it wraps. */
function titleOf(schema: z.ZodType): string | undefined {
  const inner = innerOf(schema);
  return schema.meta()?.title ?? (inner ? titleOf(inner) : undefined);
}

function unwrapped(schema: z.ZodType): z.ZodType {
  const inner = innerOf(schema);
  return inner ? unwrapped(inner) : schema;
}

const innerOf = (schema: z.ZodType): z.ZodType | null =>
  schema instanceof z.ZodDefault || schema instanceof z.ZodPrefault || schema instanceof z.ZodNullable || schema instanceof z.ZodOptional
    ? (schema.def.innerType as z.ZodType)
    : null;
