import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import {
  type Manifest,
  MANIFEST_NAME,
  pageVerdicts,
  parseManifestText,
  type Parsed,
  problemOf,
  type SeenFile,
  type Verdict,
  verdictInWords,
  verdicts,
  verdictsInShort,
} from '@rundle/core';
import pLimit from 'p-limit';
import { type FoundEntry, foundFiles } from '../deliver/found-files';
import { mayBeDelivered, seeFile, sha256Of } from '../deliver/see-file';
import type { Call } from './call';
import { Report } from './report';

/** Files that are looked at together: their decoding takes threads of its own. */
const TOGETHER = 4;

/** `rundle verify`: what has become of a delivery. @returns the exit code: 0 all as delivered, 2 nothing to hold it against, 3 something else */
export async function verify({ path, manifest: named, json }: Extract<Call, { command: 'verify' }>): Promise<number> {
  let found;
  try {
    found = await foundFiles(path);
  } catch (error) {
    Report.problem(problemOf(error));
    return 2;
  }
  try {
    const own = found.entries.find((entry) => entry.path === MANIFEST_NAME);
    const manifest = await manifestOf(named, own, path);
    if (!manifest.ok) {
      for (const problem of manifest.problems) Report.problem(problem);
      return 2;
    }
    const files = found.entries.filter((entry) => entry.path !== MANIFEST_NAME);
    const all = await held(manifest.value, files);
    for (const one of all) process.stdout.write(`${json ? JSON.stringify({ event: 'verdict', ...one }) : verdictInWords(one)}\n`);
    const short = verdictsInShort(all);
    process.stdout.write(`${json ? JSON.stringify({ event: 'summary', says: short }) : short}\n`);
    return all.every(({ kind }) => kind === 'as-delivered') ? 0 : 3;
  } finally {
    await found.close();
  }
}

async function manifestOf(named: string | null, own: FoundEntry | undefined, path: string): Promise<Parsed<Manifest>> {
  const file = named ?? ((await stat(path)).isDirectory() ? join(path, MANIFEST_NAME) : `${MANIFEST_NAME} in ${path}`);
  const text = named === null ? own && (await own.read()).toString('utf8') : await readFile(named, 'utf8').catch(() => undefined);
  if (text === undefined)
    return {
      ok: false,
      problems: [
        { code: 'manifest-missing', file, message: 'There is no manifest to hold the files against. Name it with --against FILE.' },
      ],
    };
  const parsed = parseManifestText(text);
  return parsed.ok ? parsed : { ok: false, problems: parsed.problems.map((problem) => ({ ...problem, file })) };
}

/** Every file against the manifest; what is no picture is foreign. */
async function held({ files: delivered, pages }: Manifest, found: readonly FoundEntry[]): Promise<Verdict[]> {
  const limit = pLimit(TOGETHER);
  const seen = await Promise.all(
    found.map((entry) =>
      limit(async (): Promise<SeenFile | FoundEntry> => {
        if (!mayBeDelivered(entry.path)) return entry;
        return (await seeFile(entry.path, await entry.read())) ?? entry;
      }),
    ),
  );
  const isSeen = (one: SeenFile | FoundEntry): one is SeenFile => 'sha256' in one;
  const others = seen.filter((one): one is FoundEntry => !isSeen(one));
  return [
    ...verdicts(delivered, seen.filter(isSeen)),
    ...pageVerdicts(
      pages,
      await Promise.all(others.map((entry) => limit(async () => ({ path: entry.path, sha256: sha256Of(await entry.read()) })))),
    ),
  ];
}
