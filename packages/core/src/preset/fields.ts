import * as z from 'zod';

/*
 * The kinds of value a preset is made of. Each carries a sentence of what is allowed, so that an error can name it.
 */

/**
 * A number as people read it: a comma before each three digits, three decimals at most. The language tables that would do the same take
 * 20 ms to load at each start of a program.
 * @example figure(65_500) // '65,500'
 */
export function figure(value: number): string {
  const [whole, decimals] = String(Math.round(value * 1000) / 1000).split('.');
  return [whole!.replace(/\B(?=(\d{3})+$)/g, ','), ...(decimals ? [decimals] : [])].join('.');
}

/** A whole number from `min` to `max`, both included. */
export const whole = (min: number, max: number, unit = '') => {
  const error = `a whole number${unit && ` of ${unit}`} from ${figure(min)} to ${figure(max)}`;
  return z.int({ error }).min(min, { error }).max(max, { error });
};

/** A number from `min` to `max`, both included. */
export const decimal = (min: number, max: number, unit = '') => {
  const error = `a number${unit && ` of ${unit}`} from ${figure(min)} to ${figure(max)}`;
  return z.number({ error }).min(min, { error }).max(max, { error });
};

/** One word out of a list. */
export const oneOf = <const T extends readonly [string, ...string[]]>(words: T) =>
  z.enum(words, { error: `one of ${words.map((word) => `"${word}"`).join(', ')}` });

/** True or false. */
export const flag = () => z.boolean({ error: 'true or false' });

/** Text of at most `max` characters, without line breaks and control characters. */
export const line = (max: number, min = 0) => {
  const error = `text of ${min ? `${min} to` : 'at most'} ${max} characters, without line breaks`;

  return z
    .string({ error })
    .min(min, { error })
    .max(max, { error })
    .regex(/^[^\u0000-\u001f\u007f]*$/, { error })
    .refine(isWhole, { error });
};

/** Text of at most `max` characters, which may have several lines. */
export const text = (max: number) => {
  const error = `text of at most ${max} characters`;
  return z.string({ error }).max(max, { error }).refine(isWhole, { error });
};

/** Without NUL, which no database holds as text, and without halves of characters that lost the other (Unicode 15, 3.8, D75). */
const isWhole = (value: string): boolean => !/\0|\p{Surrogate}/u.test(value);

/** A colour as `#rrggbb`, the six-digit hexadecimal form of CSS Color 4. */
export const hexColour = () => {
  const error = 'a colour such as "#ffffff"';
  return z.string({ error }).regex(/^#[0-9a-f]{6}$/i, { error });
};
