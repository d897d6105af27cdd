import type { MessagePort } from 'node:worker_threads';
import type { TagTool } from '../read/exiftool';
import type { Order, TagCall } from './messages';

/*
 * One ExifTool serves all threads of a program: it is idle nine tenths of the time, and each one more would take half a second
 * and 60 MB before its first file.
 */

/** Does what a thread asks of ExifTool, and sends the answer. */
export async function answerTagCall(call: TagCall, tool: TagTool, port: MessagePort): Promise<void> {
  const { id } = call;
  const send = (order: Order) => port.postMessage(order);
  try {
    if (call.kind === 'write-tags') await tool.write(call.path, call.tags, { writeArgs: call.writeArgs, useMWG: false });
    const tags = call.kind === 'read-tags' ? await tool.readRaw(call.path, { readArgs: call.readArgs }) : {};
    send({ kind: 'tags', id, ok: true, tags });
  } catch (error) {
    send({ kind: 'tags', id, ok: false, message: error instanceof Error ? error.message : String(error) });
  }
}

/** The program's ExifTool, as a thread sees it. */
export class LentExifTool implements TagTool {
  private readonly waiting = new Map<number, { resolve: (tags: Record<string, unknown>) => void; reject: (error: Error) => void }>();
  private count = 0;

  constructor(private readonly port: MessagePort) {
    port.on('message', (order: Order) => {
      if (order.kind !== 'tags') return;
      const asked = this.waiting.get(order.id);
      this.waiting.delete(order.id);
      if (order.ok) asked?.resolve(order.tags);
      else asked?.reject(new Error(order.message));
    });
  }

  readRaw(path: string, { readArgs }: { readArgs: string[] }): Promise<Record<string, unknown>> {
    return this.ask((id) => ({ kind: 'read-tags', id, path, readArgs }));
  }

  write(path: string, tags: object, { writeArgs = [] }: { writeArgs?: string[] }): Promise<unknown> {
    return this.ask((id) => ({ kind: 'write-tags', id, path, tags, writeArgs }));
  }

  private ask(callOf: (id: number) => TagCall): Promise<Record<string, unknown>> {
    const id = ++this.count;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.port.postMessage(callOf(id));
    });
  }
}
