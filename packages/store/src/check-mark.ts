import type { Problem, Watermark } from '@rundle/core';
import { askChild } from './bounded-child';
import { MARK_BOUNDS } from './bounds';

const TOO_DEAR: Problem = {
  code: 'watermark-large',
  message: 'The logo takes too long, or too much memory, to be drawn. Export it with fewer parts and effects, or as a PNG.',
};

/**
 * Why a watermark cannot be used: it is drawn once by a program of its own, within bounds.
 * @param program path of the bundled `mark-check`
 */
export async function markProblem(program: string, watermark: Watermark): Promise<Problem | null> {
  const told = await askChild(program, watermark, MARK_BOUNDS);
  return typeof told === 'string' ? TOO_DEAR : (told.answer as Problem | null);
}
