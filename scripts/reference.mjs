// @ts-check
// npm run reference: writes the documents that are made from the code (see reference-files.ts).
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './setup/stale.mjs';

const print = "import { referenceFiles } from './scripts/reference-files.ts'; console.log(JSON.stringify(await referenceFiles()));";
const { stdout, stderr, status } = spawnSync(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', print], {
  cwd: ROOT,
  encoding: 'utf8',
});
if (status !== 0) process.stderr.write(stderr);
else
  for (const [path, text] of Object.entries(/** @type {Record<string, string>} */ (JSON.parse(stdout))))
    writeFileSync(join(ROOT, path), text);
process.exit(status ?? 1);
