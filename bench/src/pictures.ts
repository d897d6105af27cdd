import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import sharp from 'sharp';
import { work } from './measure';

/** Packages of Debian that hold pictures, nothing else. */
const PICTURES = [
  'gnome-backgrounds',
  'lomiri-wallpapers-16.04',
  'lomiri-wallpapers-20.04',
  'mate-backgrounds',
  'plasma-workspace-wallpapers',
  'ukui-wallpapers',
];
/** Lighter files are pictures of pictures, px and bytes. */
const LEAST = { edge: 1600, bytes: 280_000 };

/** Photographs and renderings that Debian ships, which nothing here was fitted to: one of each motif. @returns their paths */
export async function debianPictures(): Promise<string[]> {
  const folder = join(work, 'debian');
  if (!existsSync(folder)) {
    mkdirSync(folder);
    execFileSync('apt-get', ['download', ...PICTURES], { cwd: folder, stdio: 'ignore' });
    for (const name of readdirSync(folder)) execFileSync('dpkg-deb', ['-x', name, 'pictures'], { cwd: folder });
  }
  const found: string[] = [];
  const seen = new Set<string>();
  for (const entry of readdirSync(join(folder, 'pictures'), { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name);
    if (!entry.isFile() || !/\.(jpe?g|png|webp)$/i.test(entry.name) || statSync(path).size < LEAST.bytes) continue;
    const { width, height } = await sharp(path).metadata();
    // One size of each, and not the same motif for the night.
    const motif = path.replace(/[^/]*$/, '').includes('/contents/')
      ? path.split('/contents/')[0]!
      : basename(path).replace(/[-_](d|dark|\d+x\d+)?\.\w+$/i, '');
    if (Math.max(width, height) < LEAST.edge || seen.has(motif)) continue;
    seen.add(motif);
    found.push(path);
  }
  return found;
}
