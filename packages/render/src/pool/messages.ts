import type { Watermark } from '@rundle/core';
import type { MessagePort } from 'node:worker_threads';
import type { MasterJob, OutputResult } from '../render-master';

/** What a thread is asked to do. */
export type Task =
  | { kind: 'facts'; path: string; proxyTo: string | null }
  | { kind: 'watermark'; watermark: Watermark }
  | { kind: 'render'; job: MasterJob; port: MessagePort };

/** What a thread sends while it renders. */
export type Progress = { kind: 'started'; id: string } | { kind: 'result'; result: OutputResult };
