import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, it } from 'vitest';
import { folder, testPicture } from './pictures';

const ROOT = fileURLToPath(new URL('../../..', import.meta.url));

it('the package works alone in an empty folder', async () => {
  const dir = folder();
  const path = execFileSync('node', ['scripts/pack.mjs', dir], { cwd: ROOT, encoding: 'utf8' }).trim();
  const empty = join(dir, 'empty');
  mkdirSync(empty);
  // Into a folder of its own, not into a project above it.
  writeFileSync(join(empty, 'package.json'), '{"private": true}');
  execFileSync('npm', ['i', '--no-audit', '--no-fund', '--prefer-offline', path], { cwd: empty, stdio: 'ignore' });
  await testPicture(900, 600).jpeg().toFile(join(empty, 'boat.jpg'));
  await testPicture(900, 600).jpeg().toFile(join(empty, 'mast.jpg'));
  writeFileSync(join(empty, 'web.preset.json'), JSON.stringify({ kind: 'rundle.preset', version: 1, title: 'Web', size: { px: 300 } }));
  const rundle = (...args: string[]) => spawnSync('npx', ['--no-install', 'rundle', ...args], { cwd: empty, encoding: 'utf8' });
  expect(JSON.parse(rundle('inspect', 'boat.jpg').stdout)).toMatchObject({ format: 'jpeg', width: 900 });
  for (const files of [['boat.jpg'], ['boat.jpg', 'mast.jpg']]) {
    const { status } = rundle('render', '--preset', 'web.preset.json', '--out', `out-${files.length}`, ...files);
    expect(status).toBe(0);
    expect(readdirSync(join(empty, `out-${files.length}`, 'web'))).toHaveLength(files.length);
  }
});
