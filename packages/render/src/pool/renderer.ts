import type { MasterFacts, Problem, Salience, Watermark, Weighing } from '@rundle/core';
import type { MasterJob, OutputResult, Stage } from '../render-master';
import type { HowWeighed } from './messages';

/** Reads, weighs and renders pictures, in threads or in this one. */
export interface Renderer {
  /** How many pictures it works on at a time. */
  readonly size: number;

  /**
   * Reads the facts of a master and, when asked, makes its proxy.
   * @param page which one of a file with several, from 1; without it: the first
   * @throws ProblemError with what is wrong and what to do
   */
  facts(path: string, proxyTo: string | null, page?: number | null): Promise<MasterFacts>;

  /** Why a picture cannot be decoded to its end, such as that it is still being written; null: it can. */
  wholeProblem(path: string): Promise<Problem | null>;

  /**
   * Weighs a master, so that the weights of its outputs can be expected.
   * @param how what of it; as AVIF takes as long as all the others together
   * @returns all of its weighings
   * @throws ProblemError when it cannot be decoded
   */
  weigh(path: string, facts: MasterFacts, how: HowWeighed): Promise<Weighing[]>;

  /**
   * Measures what draws the eye in a master, so that it can be proposed where to crop it.
   * @throws ProblemError when it cannot be decoded
   */
  salience(path: string, facts: MasterFacts): Promise<Salience>;

  /**
   * Checks a watermark by drawing it once.
   * @throws ProblemError when it cannot be read or is refused
   */
  checkWatermark(watermark: Watermark): Promise<void>;

  /** Renders all outputs of one master; results come one by one. See `renderMaster`. */
  render(
    job: MasterJob,
    onStage: (id: string, stage: Stage) => void,
    onResult: (result: OutputResult) => void,
    signal?: AbortSignal,
  ): Promise<void>;

  /** Ends what it has started. */
  close(): Promise<void>;
}
