import * as z from 'zod';
import { Preset } from './schema';

type Plain = string | number | boolean | readonly unknown[];

/** Paths below one object: a field, or a group of fields that may be null as a whole and its fields. */
type PathsIn<T, At extends string = ''> = {
  [Key in keyof T & string]: NonNullable<T[Key]> extends Plain
    ? `${At}${Key}`
    : (null extends T[Key] ? `${At}${Key}` : never) | PathsIn<NonNullable<T[Key]>, `${At}${Key}.`>;
}[keyof T & string];

/** The path of a field that a photographer can change, such as `size.px`. */
export type FieldPath = PathsIn<Omit<Preset, 'kind' | 'version'>>;

/** What stands at a path. */
export type FieldValue<Path extends string, T = Preset> = Path extends `${infer Key}.${infer Rest}`
  ? Key extends keyof T
    ? FieldValue<Rest, NonNullable<T[Key]>>
    : never
  : Path extends keyof T
    ? T[Path]
    : never;

/** The value at a path; undefined when a step is missing. */
export function valueAt(preset: Preset, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>((value, key) => (value !== null && typeof value === 'object' ? Reflect.get(value, key) : undefined), preset);
}

/** A copy of a preset, or of a part of it, with another value at a path; groups on the way that are null become objects. */
export function putAt<T>(target: T, path: string, value: unknown): T {
  const put = (at: unknown, [key = '', ...rest]: string[]): unknown => {
    const record = at !== null && typeof at === 'object' ? at : {};
    return { ...record, [key]: rest.length ? put(Reflect.get(record, key), rest) : value };
  };
  return put(target, path.split('.')) as T;
}

/** What the schema says of a field. */
export interface FieldRules {
  /** In words: "a whole number from 1 to 100". */
  allowed: string;
  /** Undefined where it has to be given. */
  byDefault: unknown;
  /** Of a number, both included. */
  min: number;
  max: number;
}

/** What the schema of the preset says of a field. */
export function rulesAt(path: FieldPath): FieldRules {
  let byDefault: unknown;
  let nullable = false;
  const unwrapped = (schema: z.ZodType): z.ZodType => {
    if (schema instanceof z.ZodDefault || schema instanceof z.ZodPrefault) {
      byDefault = schema.def.defaultValue;
      return unwrapped(schema.def.innerType as z.ZodType);
    }
    if (!(schema instanceof z.ZodNullable)) return schema;
    nullable = true;
    return unwrapped(schema.unwrap() as z.ZodType);
  };
  let schema: z.ZodType = Preset;
  for (const key of path.split('.')) {
    const shape = (schema as z.ZodObject).shape as Record<string, z.ZodType>;
    [byDefault, nullable] = [undefined, false];
    schema = unwrapped(shape[key]!);
  }
  const said = schema.safeParse(Symbol('never allowed')).error?.issues[0]?.message ?? '';
  const allowed = schema instanceof z.ZodObject ? 'an object of the fields below' : said;
  const { minValue, maxValue } = schema instanceof z.ZodNumber ? schema : { minValue: null, maxValue: null };
  return { allowed: nullable ? `${allowed}, or null` : allowed, byDefault, min: minValue ?? 0, max: maxValue ?? 0 };
}
