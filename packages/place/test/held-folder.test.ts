import { mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ProblemError } from '@rundle/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { holdPlace } from '../src/held-folder';

let root: string;

beforeAll(() => {
  root = mkdtempSync(join(tmpdir(), 'rundle-held-'));
});

afterAll(() => rmSync(root, { recursive: true, force: true }));

it('a folder that is moved away while it is opened has vanished: it is not called a link', async () => {
  const outputs = join(root, 'outputs');
  const said = new Set<string>();
  for (let turn = 0; turn < 400; turn++) {
    mkdirSync(join(outputs, 'set', 'web'), { recursive: true });
    const opening = holdPlace(join(outputs, 'set', 'web', 'new'), [outputs], true).then(
      (held) => held?.close(),
      (error: unknown) => {
        said.add(error instanceof ProblemError ? error.problem.message : String((error as NodeJS.ErrnoException).code));
      },
    );
    // Another moment of opening each time.
    for (let step = 0; step < turn % 40; step++) await new Promise((resolve) => setImmediate(resolve));
    renameSync(outputs, join(root, `gone-${turn}`));
    await opening;
    rmSync(join(root, `gone-${turn}`), { recursive: true });
    rmSync(outputs, { recursive: true, force: true });
  }
  expect([...said]).toEqual(['ENOENT']);
});
