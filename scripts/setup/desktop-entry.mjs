// @ts-check
import { readFileSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';

/** Types of files that it opens, as shared-mime-info calls them. */
const TYPES = ['image/jpeg', 'image/tiff', 'image/png', 'image/webp', 'image/avif', 'inode/directory'];

/**
 * An entry for the menu (Desktop Entry Specification 1.5).
 * @param {string} node path of Node.js
 * @param {string} script that opens files
 */
export const desktopEntry = (node, script) => `[Desktop Entry]
Type=Application
Name=Rundle
GenericName=Web versions of pictures
Comment=Web versions of finished pictures: resized, converted, sharpened, named
Exec=${quoted(node)} ${quoted(script)} %F
Icon=rundle
Terminal=false
Categories=Graphics;Photography;
MimeType=${TYPES.join(';')};
StartupNotify=false
`;

/** As the specification quotes an argument; a percent sign would begin a field code. @param {string} argument */
const quoted = (argument) =>
  `"${argument
    .replace(/["`$\\]/g, '\\$&')
    .replaceAll('\\', '\\\\')
    .replaceAll('%', '%%')}"`;

/**
 * The address at which the application shows files of this machine: pictures of one folder, or a folder.
 * @param {readonly string[]} paths those of the first one's folder count
 * @param {number} port
 */
export function launchAddress(paths, port) {
  const server = `http://127.0.0.1:${port}`;
  const [first, ...others] = paths.map((path) => resolve(path));
  if (first === undefined) return `${server}/sets`;
  if (statSync(first).isDirectory()) return `${server}/web-versions?${new URLSearchParams({ folder: first })}`;
  const folder = dirname(first);
  const names = [first, ...others].filter((path) => dirname(path) === folder).map((path) => basename(path));
  return `${server}/web-versions?${new URLSearchParams([['folder', folder], ...names.map((name) => ['name', name])])}`;
}

/** The port of what runs on a data folder; the usual one where that does not tell. @param {string} data */
export function portOf(data) {
  try {
    return Number(JSON.parse(readFileSync(join(data, 'running.json'), 'utf8')).port) || USUAL_PORT;
  } catch {
    return USUAL_PORT;
  }
}

const USUAL_PORT = 4820;
