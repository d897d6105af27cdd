import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, it } from 'vitest';
import { desktopEntry, launchAddress, portOf } from './setup/desktop-entry.mjs';

const folder = mkdtempSync(join(tmpdir(), 'rundle-desktop-'));
afterAll(() => rmSync(folder, { recursive: true }));
const ROOT = fileURLToPath(new URL('..', import.meta.url));

describe('the entry in the menu', () => {
  it('is as the Desktop Entry Specification wants it, wherever the project lies', () => {
    for (const [at, script] of ['/srv/rundle/open.mjs', '/home/a b/100% "mine" $x `y` \\z/open.mjs'].entries()) {
      const file = join(folder, `entry-${at}.desktop`);
      writeFileSync(file, desktopEntry('/usr/bin/node', script));
      const checked = spawnSync('desktop-file-validate', [file], { encoding: 'utf8' });
      expect(checked.error).toBeUndefined();
      expect(checked.stdout + checked.stderr).toBe('');
    }
  });

  it('is written where the menu looks for it', () => {
    const { status } = spawnSync(process.execPath, ['scripts/desktop.mjs'], { cwd: ROOT, env: { ...process.env, XDG_DATA_HOME: folder } });
    expect(status).toBe(0);
    expect(readFileSync(join(folder, 'applications/rundle.desktop'), 'utf8')).toContain(`open-with.mjs" %F`);
    expect(readFileSync(join(folder, 'icons/hicolor/scalable/apps/rundle.svg'), 'utf8')).toContain('<svg');
  });
});

describe('the address that pictures are opened at', () => {
  it('names them, those of one folder; of a folder all', () => {
    expect(launchAddress([], 4820)).toBe('http://127.0.0.1:4820/sets');
    const address = new URL(launchAddress(['/dev/null', '/dev/zero', '/etc/passwd'], 4831));
    expect([address.origin, address.pathname]).toEqual(['http://127.0.0.1:4831', '/web-versions']);
    expect([address.searchParams.get('folder'), address.searchParams.getAll('name')]).toEqual(['/dev', ['null', 'zero']]);
    mkdirSync(join(folder, 'a & b'));
    const whole = new URL(launchAddress([join(folder, 'a & b')], 4831));
    expect([whole.searchParams.get('folder'), whole.searchParams.getAll('name')]).toEqual([join(folder, 'a & b'), []]);
  });

  it('is that of what runs on the data folder', () => {
    expect(portOf(join(folder, 'none'))).toBe(4820);
    writeFileSync(join(folder, 'running.json'), JSON.stringify({ pid: 1, begun: '2', port: 4999 }));
    expect(portOf(folder)).toBe(4999);
  });
});
