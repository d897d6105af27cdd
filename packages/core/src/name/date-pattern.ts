import { format } from 'date-fns';
import { line } from '../preset/fields';

/** The fields of Unicode LDML (UTS #35, date field symbols) that a capture time can fill; quoted text is free. */
const FIELDS = /^(?:y{1,4}|M{1,4}|d{1,2}|H{1,2}|h{1,2}|m{1,2}|s{1,2}|S{1,3}|a|E{1,4}|D{3}|w{1,2}|Q{1,4})$/;

/** A date pattern of Unicode LDML, for instance `yyyy-MM-dd`. */
export const DatePattern = line(60, 1).refine(isDatePattern, {
  error: 'a date pattern of Unicode LDML such as "yyyy-MM-dd", without "/" and "\\"',
});

function isDatePattern(pattern: string): boolean {
  if (/[/\\]/.test(pattern) || (pattern.match(/'/g)?.length ?? 0) % 2 === 1) return false;
  const unquoted = pattern.replace(/'[^']*'/g, ' ');
  return (unquoted.match(/([A-Za-z])\1*/g) ?? []).every((field) => FIELDS.test(field));
}

/**
 * Writes a capture time by a pattern of Unicode LDML.
 * @param pattern a checked pattern
 * @param captured local time of the camera as `yyyy-MM-ddTHH:mm:ss` with whatever offset behind; the offset is left
 *   aside, because a name shows the clock of the place where the picture was made
 * @returns the text, or null when `captured` is no date
 */
export function writeDate(pattern: string, captured: string): string | null {
  const parts = /^(\d{4})-(\d\d)-(\d\d)T(\d\d):(\d\d):(\d\d)(?:\.(\d{1,3}))?/.exec(captured)?.slice(1);
  if (!parts) return null;
  const [year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0] = parts.map(Number);
  const time = new Date(year, month - 1, day, hour, minute, second, Number((parts[6] ?? '0').padEnd(3, '0')));
  if (time.getMonth() !== month - 1 || time.getDate() !== day) return null;
  return format(time, pattern, { useAdditionalDayOfYearTokens: true });
}
