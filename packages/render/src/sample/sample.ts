import type {
  Finding,
  Making,
  MasterFacts,
  PixelRung,
  PixelSize,
  SampleOverlay,
  SampleView,
  SeenSample,
  StudioDetails,
  Watermark,
} from '@rundle/core';

/** One look at what a preset makes of a master. */
export interface SampleTask {
  /** Path of the master, and what tells its content from that of another. */
  master: string;
  content: string;
  facts: MasterFacts;
  studio: StudioDetails;
  making: Making;
  watermark: Watermark | null;
  /** The rung after which the picture is shown; `file`: as it comes out of the finished file. */
  upTo: PixelRung;
  overlay: SampleOverlay | null;
  view: SampleView;
  /** Whether a look tells how its part differs from the unencoded picture. */
  judged: boolean;
}

/** What was found by making the whole file: by it a part can be shown as it is in that file. */
export interface FoundFile extends PixelSize {
  quality: number | null;
  chroma: '4:2:0' | '4:4:4' | null;
}

/** What a look has come to, with its picture. */
export type Sample = SeenSample & { png: Buffer };

/** The same with the figures of the whole file. */
export type FinishedSample = Extract<Sample, { kind: 'picture' }> & { bytes: number; found: FoundFile; warnings: Finding[] };

/** What decides about the pixels, the file or the weight of what a task makes; see keyOf in packages/core. */
export const ingredientsOf = ({ content, facts, making, studio, watermark }: SampleTask) => ({
  content,
  facts,
  preset: making.preset,
  studio,
  watermark,
});
