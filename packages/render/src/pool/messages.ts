import type { MasterFacts, Problem, Salience, Watermark, Weighing } from '@rundle/core';
import type { MasterJob, OutputResult, Stage } from '../render-master';

/** What is weighed of a master: its small picture, parts of it at its larger sizes, and these as AVIF, too. */
export interface HowWeighed {
  small: boolean;
  fine: boolean;
  withAvif: boolean;
}

/** What a thread is asked to do. */
export type Task =
  | { kind: 'facts'; path: string; proxyTo: string | null; page: number | null }
  | { kind: 'weigh'; path: string; facts: MasterFacts; how: HowWeighed }
  | { kind: 'salience'; path: string; facts: MasterFacts }
  | { kind: 'watermark'; watermark: Watermark }
  | { kind: 'whole'; path: string }
  | { kind: 'warm' }
  | { kind: 'render'; job: MasterJob };

/** What comes of it: facts of `facts`, weighings of `weigh`, a problem of `whole`, and so on. */
export type Done = MasterFacts | Weighing[] | Salience | Problem | null;

/** What a thread sends while it renders. */
export type Progress = { kind: 'stage'; id: string; stage: Stage } | { kind: 'result'; result: OutputResult };

/** What a thread asks of its program's ExifTool. */
export type TagCall =
  | { kind: 'read-tags'; id: number; path: string; readArgs: string[] }
  | { kind: 'write-tags'; id: number; path: string; tags: object; writeArgs: string[] };

/** What a thread is sent while it works. */
export type Order =
  { kind: 'stop' } | ({ kind: 'tags'; id: number } & ({ ok: true; tags: Record<string, unknown> } | { ok: false; message: string }));
