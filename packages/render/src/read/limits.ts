import { FILE_GONE, type MasterFacts, NO_PICTURE, type Problem, ProblemError } from '@rundle/core';

/** The most pixels a master may have; larger ones are refused with this number in the message. */
export const MOST_PIXELS = 150_000_000;

/** The most memory that the decoded pixels of one master may take, in bytes. */
const MOST_BYTES = 1_000_000_000;

/** Masters that take more than this decoded, in bytes, are large: not every thread may have one at the same time. */
const LARGE_BYTES = 60_000_000;

/** What the pixels of a master take when they are decoded, in bytes. */
const decodedBytes = ({ width, height, channels, bits }: MasterFacts): number => width * height * channels * (bits > 8 ? 2 : 1);

export const isLarge = (facts: MasterFacts): boolean => decodedBytes(facts) > LARGE_BYTES;

/** @throws ProblemError when decoding a master would take more memory than {@link MOST_BYTES} */
export function refuseTooMuchMemory(facts: MasterFacts, file: string): void {
  const bytes = decodedBytes(facts);
  if (bytes <= MOST_BYTES) return;
  const needed = `Decoded, the picture would take ${(bytes / 1e9).toFixed(1)} GB of memory`;
  throw new ProblemError({
    code: 'too-large',
    file,
    message: `${needed}; the limit of this program is ${MOST_BYTES / 1e9} GB. Bring in a smaller version, or one of 8 bits.`,
  });
}

const SAVE_PLAINLY = 'Save it again with LZW or ZIP, or as JPEG.';

/** What a decoder says, without who says so. */
const plainly = (said: string): string =>
  (said.split('\n')[0] ?? '')
    .replace(/^(?:Vips\w+|tiff2vips): /, '')
    .replace(/ support is not configured$/, '')
    .trim();

/** Turns what the decoder says into what a photographer can act on. */
export function readProblem(thrown: unknown, file: string): Problem {
  if (thrown instanceof ProblemError) return { ...thrown.problem, file };
  const said = thrown instanceof Error ? thrown.message : String(thrown);
  if (/exceeds pixel limit/i.test(said))
    return {
      code: 'too-large',
      file,
      message: `The picture has more than ${MOST_PIXELS / 1e6} megapixels, the limit of this program. Bring in a smaller version.`,
    };
  if (/ENOENT|Input file is missing/i.test(said)) return { ...FILE_GONE, file };
  if (/EACCES|permission/i.test(said))
    return { code: 'no-permission', file, message: 'The file may not be read. Allow reading it, then try again.' };
  if (/labq/.test(said))
    return { code: 'unreadable', file, message: 'It is Lab of 8 bits, which is not read here. Save it as RGB, or with 16 bits.' };
  if (/not supported|not configured/i.test(said))
    return {
      code: 'unreadable',
      file,
      message: `Its pixels are laid out in a way that is not read here (${plainly(said)}). ${SAVE_PLAINLY}`,
    };
  if (/unsupported image format|unsupported/i.test(said)) return { code: 'unreadable', file, message: NO_PICTURE };
  return {
    code: 'damaged',
    file,
    message: `The file is damaged or cut off (${plainly(said)}). Export it again, or copy it again from where it came.`,
  };
}
