import { FINDING_CODES, type FindingCode } from '../codes/finding-codes';
import { PROBLEM_CODES, type ProblemCode } from '../codes/problem-codes';
import type { Problem } from '../problem';
import type { Finding } from '../vet/finding';
import type { StaleReason } from './place';

/** What there is to say about one cell of the run sheet. */
export interface RemarkedCell {
  masterId: string;
  presetId: string;
  remarks: readonly Finding[];
  error: Problem | null;
}

/** Remarks of one kind, over the whole sheet. */
export interface RemarkGroup {
  code: FindingCode | ProblemCode;
  kind: 'failure' | 'look';
  /** What they have in common, in the words of a photographer. */
  title: string;
  pictures: number;
  /** Outputs that it is told of. */
  outputs: number;
  /** What can be done. */
  toDo: string;
  masterIds: ReadonlySet<string>;
}

/** Codes whose meaning is too long for a line above the sheet. */
const TITLES: Partial<Record<FindingCode | ProblemCode, string>> = {
  'smaller-than-asked': 'Smaller than the preset asks',
  'place-kept': 'The location goes out',
  'same-name': 'Two outputs of one name',
  'is-master': 'A master of that name is in the way',
  'is-stranger': 'A file of somebody else is in the way',
  'house-long': 'Longer than the receiver takes',
  'house-short': 'Too short for the receiver',
  'house-heavy': 'Heavier than the receiver takes',
  'house-type': 'A type that the receiver does not take',
  'house-space': 'A colour space that the receiver does not take',
  halos: 'Halos from sharpening',
  clipped: 'Colours out of gamut',
  shrunk: 'Made smaller to fit under the ceiling',
  'over-ceiling': 'Over the ceiling',
  'no-own-folder': 'Uploaded, so without a folder of their own',
  exists: 'A file of that name is there',
  damaged: 'Cut off or broken inside',
};

/** What is to be looked at in a sheet, by kind: failures first, then the most frequent. Notes are for who asks. */
export function groupRemarks(cells: readonly RemarkedCell[]): RemarkGroup[] {
  const groups = new Map<string, { code: RemarkGroup['code']; kind: RemarkGroup['kind']; outputs: number; masterIds: Set<string> }>();
  const add = (code: RemarkGroup['code'], kind: RemarkGroup['kind'], masterId: string) => {
    const group = groups.get(`${kind} ${code}`) ?? { code, kind, outputs: 0, masterIds: new Set<string>() };
    groups.set(`${kind} ${code}`, group);
    group.outputs++;
    group.masterIds.add(masterId);
  };
  for (const { masterId, remarks, error } of cells) {
    if (error) add(error.code, 'failure', masterId);
    if (remarks.length === 0) continue;
    for (const code of new Set(remarks.filter(({ severity }) => severity === 'look').map(({ code: one }) => one)))
      add(code, 'look', masterId);
  }
  return [...groups.values()]
    .map((group): RemarkGroup => {
      const about = { ...PROBLEM_CODES, ...FINDING_CODES }[group.code as FindingCode];
      const title = TITLES[group.code] ?? about?.means.replace(/\.$/, '') ?? group.code;
      return { ...group, title, toDo: about?.toDo ?? '', pictures: group.masterIds.size };
    })
    .sort((a, b) => (a.kind === b.kind ? b.outputs - a.outputs : a.kind === 'failure' ? -1 : 1));
}

/** Why files are out of date, as it stands behind their number. */
export const STALE_WORDS: Record<StaleReason, string> = {
  preset: 'preset changed',
  picture: 'picture changed',
  credit: 'credit changed',
  watermark: 'watermark changed',
  decision: 'decided otherwise about the picture',
  engine: 'made by an earlier Rundle',
};

/** "5 of 48 are out of date: preset changed"; null: nothing is. @param of how many files have been made */
export function staleSentence(reasons: readonly StaleReason[], of: number): string | null {
  if (reasons.length === 0) return null;
  const words = [...new Set(reasons)].map((reason) => STALE_WORDS[reason]);
  return `${reasons.length} of ${of} ${reasons.length === 1 ? 'is' : 'are'} out of date: ${words.join(', ')}`;
}
