import * as z from 'zod';
import { CLIPPING_WORTH_TELLING } from '../colour/gamut';
import { BANDING_WORTH_TELLING, bandingShare } from '../judge/banding';
import { BLOCKS_WORTH_TELLING, blockSpots } from '../judge/blocks';
import { HALOS_WORTH_TELLING } from '../sharpen/halo';
import { type Planes, visibleDifference } from '../judge/visible-difference';

/** Raised whenever the same two pictures would be judged otherwise than before: judgements that are kept are those of one judge. */
export const JUDGE = 2;

/** How a finished picture differs from itself before it was encoded. */
export const Judgement = z.object({
  difference: z.number().meta({ description: 'What is seen of the difference, see docs/proof.md: 0 for none' }),
  likeness: z.number().meta({ description: 'MS-SSIM (Wang et al. 2003) of luma to the unencoded picture, 0-1' }),
  banding: z.number().meta({ description: 'Share of the pixels at which smooth areas have got steps, 0-1' }),
  blocks: z.number().nullable().meta({ description: 'Share of the borders between blocks that are seen, 0-1; null: the type has none' }),
});
export type Judgement = z.infer<typeof Judgement>;

/**
 * @param before the finished picture that was encoded, @param after the same decoded; of one size
 * @param at where they lie in the output, px; null: the file has no blocks of 8 x 8 px
 */
export function judge(before: Planes, after: Planes, at: { left: number; top: number } | null): Judgement {
  const [was, is] = [before[0], after[0]];
  return { ...visibleDifference(before, after), banding: bandingShare(was, is), blocks: at && blockSpots(was, is, at).share };
}

/** How much of a difference is seen, the least first. */
export const DIFFERENCES = ['same', 'just visible', 'visible', 'poor'] as const;
export type Difference = (typeof DIFFERENCES)[number];

/**
 * The most of each word; beyond the last it is poor. Fitted so that two judges from outside put as many files as possible under the same word: butteraugli
 * (J. Alakuijala et al. 2017, arXiv:1703.10136) at 1.5, 4 and 6, whose own words are that 1 is about the threshold of being seen, and SSIMULACRA at 0.0129,
 * 0.0344 and 0.0716, both of Debian's libjxl-devtools; see docs/proof.md.
 */
export const MOST_DIFFERENCE: Readonly<Record<Exclude<Difference, 'poor'>, number>> = {
  same: 0.0035,
  'just visible': 0.0135,
  visible: 0.025,
};

/** The word for a difference. @example differenceOf(0) // 'same' */
export function differenceOf(difference: number): Difference {
  for (const word of DIFFERENCES) if (word !== 'poor' && difference <= MOST_DIFFERENCE[word]) return word;
  return 'poor';
}

/** Each word within a sentence. */
const SEEN: Record<Difference, string> = {
  same: 'no difference is seen',
  'just visible': 'a difference is just visible',
  visible: 'the difference is visible',
  poor: 'it looks poor',
};

/** What is seen of a difference, as a sentence. @example differenceInWords(0) // 'no difference is seen' */
export const differenceInWords = (difference: number): string => SEEN[differenceOf(difference)];

/** What may go wrong with a picture, and is told where it exceeds what is seldom seen. */
export const FAULTS = ['banding', 'blocks', 'halos', 'clipping'] as const;
export type Fault = (typeof FAULTS)[number];

/** Which faults a part of a picture has. */
export function faultsOf(facts: { judgement: Judgement | null; halo: { seen: number } | null; gamut: { share: number } | null }): Fault[] {
  const { judgement, halo, gamut } = facts;
  const has: Record<Fault, boolean> = {
    banding: (judgement?.banding ?? 0) >= BANDING_WORTH_TELLING,
    blocks: (judgement?.blocks ?? 0) >= BLOCKS_WORTH_TELLING,
    halos: (halo?.seen ?? 0) >= HALOS_WORTH_TELLING,
    clipping: (gamut?.share ?? 0) >= CLIPPING_WORTH_TELLING,
  };
  return FAULTS.filter((fault) => has[fault]);
}
