import { realpath } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { daySetTitle, fateOf, isUnchanged, isUnread, localDay, naturally } from '@rundle/core';
import { contentOf, FolderWatch, identityOf, isRemote, type SeenFile, seenNow } from '@rundle/watch';
import type { Renderer } from '../pool/renderer';
import type { Call } from './call';
import { collectFiles } from './collect';
import { makeOutputs, refuseWatermarks } from './render';
import { type OutputEvent, Report } from './report';
import { WatchRecord } from './watch-record';

type WatchCall = Extract<Call, { command: 'watch' }>;
type RestedFile = SeenFile & { sha256: string };

/** How often it is looked whether something has come to rest, in ms; what is copied together is made together. */
const TURN_MS = 500;

/** `rundle watch`: makes outputs of whatever comes to rest in a folder, until it is ended. Returns the exit code. */
export async function watchFolder(call: WatchCall, renderer: Renderer, signal: AbortSignal): Promise<number> {
  const folder = await realpath(call.folder).catch(() => null);
  const identity = folder && (await identityOf(folder));
  if (folder === null || identity === null) {
    Report.problem({ code: 'missing', file: call.folder, message: 'There is no such folder to watch.' });
    return 2;
  }
  if (await refuseWatermarks(call.presets, renderer)) return 2;
  const record = new WatchRecord(resolve(call.out));
  if (!record.isOld && !call.existing) await leaveWhatIsThere(folder, call.recursive, record);
  const waiting = new Map<string, SeenFile>();
  /** What lay there before and has not been read: one of them a turn, when nothing else is to be done. */
  const unread = new Map<string, SeenFile>();
  let cameLast = 0;
  /** Files that are not whole, which is told of each once. */
  const notWhole = new Set<string>();
  const begin = async () =>
    new FolderWatch({
      folder,
      deeper: call.recursive,
      polling: call.polling || (await isRemote(folder)),
      onFile: (file) => {
        const known = record.knownAt(file.path);
        if (isUnchanged(file, known) && !record.isOpen(file.path)) return;
        (isUnread(file, known) ? unread : waiting).set(file.path, file);
        cameLast = Date.now();
      },
      onError: (error) =>
        Report.problem({ code: 'unreadable', file: folder, message: `A part of it cannot be followed: ${String(error)}` }),
    });
  let watch = { by: await begin(), identity };
  let failed = false;
  process.stderr.write(`Watching ${folder}. Ctrl-C ends it.\n`);
  while (!signal.aborted) {
    await wait(TURN_MS, null, { signal }).catch(() => {});
    const now = await identityOf(folder);
    // The disk was away, or another folder stands there now.
    if (now !== null && now !== watch.identity) {
      await watch.by.close();
      watch = { by: await begin(), identity: now };
    }
    if (signal.aborted || Date.now() - cameLast < TURN_MS) continue;
    const [next] = unread.values();
    if (next && waiting.size === 0) {
      unread.delete(next.path);
      waiting.set(next.path, next);
    }
    if (waiting.size === 0) continue;
    const files = [...waiting.values()].sort((a, b) => naturally(a.path, b.path));
    const taken = await decide(files, record, renderer, notWhole);
    if (taken.length) failed = (await make(call, folder, taken, record, renderer, signal)) || failed;
    // Unless it has changed meanwhile, which is told when it rests again.
    for (const file of files) if (waiting.get(file.path) === file) waiting.delete(file.path);
  }
  await watch.by.close();
  return failed ? 3 : 0;
}

async function leaveWhatIsThere(folder: string, deeper: boolean, record: WatchRecord): Promise<void> {
  for (const path of (await collectFiles([folder], deeper)).files) {
    const seen = await seenNow(path);
    if (seen) record.keep(seen, null, null);
  }
}

/** What is to be taken of files that have come to rest; the rest is put on record. */
async function decide(files: readonly SeenFile[], record: WatchRecord, renderer: Renderer, notWhole: Set<string>): Promise<RestedFile[]> {
  const taken: RestedFile[] = [];
  for (const file of files) {
    try {
      const sha256 = await contentOf(file);
      if (sha256 === null) continue; // written again, or gone
      const elsewhere = record.elsewhere(file.path, sha256);
      const same = await Promise.all(elsewhere.map(async (path) => ({ path, isThere: (await seenNow(path)) !== null })));
      const fate = fateOf({ ...file, sha256 }, record.knownAt(file.path), record.madeWith(sha256), same);
      const isMoved = fate === 'moved' && same.some(({ path }) => record.isOpen(path, sha256)); // and its outputs are not all made
      const isTaken = fate === 'taken' || isMoved;
      if (isTaken && !(await isWhole(file, renderer, notWhole))) continue; // it comes again with its rest
      if (isTaken) record.keep(file, sha256, localDay(new Date()));
      if (fate === 'twin') tellTwin(file, same.find(({ isThere }) => isThere)!.path);
      if (record.isOpen(file.path, sha256)) taken.push({ ...file, sha256 });
      else record.keep(file, sha256, null, fate === 'twin' || (fate === 'known' && record.isTwin(file.path, sha256)));
    } catch {
      Report.problem({ code: 'no-permission', file: file.path, message: 'It cannot be read. Allow reading it, then put it there again.' });
    }
  }
  return taken;
}

/** Whether a file decodes to its end; one that does not is told once, however often it grows. */
async function isWhole({ path }: SeenFile, renderer: Renderer, notWhole: Set<string>): Promise<boolean> {
  const problem = await renderer.wholeProblem(path);
  if (problem?.code !== 'damaged') return true;
  if (!notWhole.has(path))
    Report.problem({ code: 'damaged', file: path, message: 'It is not whole, or damaged. It is made as soon as the rest of it has come.' });
  notWhole.add(path);
  return false;
}

const tellTwin = ({ path }: SeenFile, other: string): void =>
  Report.problem({ code: 'twin', file: path, message: `It is the same picture as ${other}, byte for byte, and is not made once more.` });

/** Makes the outputs of files that have come, named as among all of their day. @returns whether some failed */
async function make(
  call: WatchCall,
  folder: string,
  taken: readonly RestedFile[],
  record: WatchRecord,
  renderer: Renderer,
  signal: AbortSignal,
): Promise<boolean> {
  const day = localDay(new Date());
  // Such as were begun on another day and not made to their end are made today. One that has been moved away since keeps its place, or the
  // counter would give its name to another.
  const files = [...new Set([...record.takenOn(day), ...taken.map(({ path }) => path)])];
  const now = new Set(taken.map(({ path }) => path));
  const over = { files, problems: [], isWanted: (file: string) => now.has(file), careful: true };
  const set = daySetTitle(call.set ?? basename(folder), day);
  const { report, bytesIn } = await makeOutputs({ ...call, set, command: 'render' }, over, renderer, signal);
  for (const output of report.outputs) await keepMade(output, taken, record);
  if (!signal.aborted) for (const { path, sha256 } of taken) record.settle(path, sha256);
  report.summary(bytesIn);
  return report.exitCode() !== 0;
}

async function keepMade({ status, master, output }: OutputEvent, taken: readonly RestedFile[], record: WatchRecord): Promise<void> {
  const seen = status === 'done' && output !== undefined ? await seenNow(output) : null;
  const sha256 = seen && (await contentOf(seen));
  if (seen && sha256 !== null)
    record.keepMade(
      seen.path,
      sha256,
      taken.some((file) => file.path === master && file.sha256 === sha256),
    );
}
