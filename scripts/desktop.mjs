// @ts-check
// npm run desktop: puts Rundle into the menu of the desktop, and into "Open with" of the file manager, for this user.
import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { desktopEntry } from './setup/desktop-entry.mjs';
import { say } from './setup/say.mjs';
import { ROOT } from './setup/stale.mjs';

// XDG Base Directory Specification: where a user's own entries lie.
const share = process.env['XDG_DATA_HOME'] || join(homedir(), '.local/share');
const applications = join(share, 'applications');
const icons = join(share, 'icons/hicolor/scalable/apps');
for (const folder of [applications, icons]) mkdirSync(folder, { recursive: true });
copyFileSync(join(ROOT, 'apps/web/public/favicon.svg'), join(icons, 'rundle.svg'));
const file = join(applications, 'rundle.desktop');
writeFileSync(file, desktopEntry(process.execPath, join(ROOT, 'scripts/open-with.mjs')));
// So that the file manager knows of it at once; without the program it does so after a while.
spawnSync('update-desktop-database', [applications]);
say(`Rundle stands in the menu now, and under “Open with” for pictures and folders.\n${file}`);
