// @ts-check
// npm run reference: writes docs/preset.schema.json from the definition of the preset.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './setup/stale.mjs';

const print = "import { presetJsonSchema } from '@rundle/core'; console.log(JSON.stringify(presetJsonSchema(), null, 2));";
const { stdout, status } = spawnSync(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', print], {
  cwd: ROOT,
  encoding: 'utf8',
});
if (status === 0) writeFileSync(join(ROOT, 'docs/preset.schema.json'), stdout);
process.exit(status ?? 1);
