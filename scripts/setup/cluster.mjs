// @ts-check
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { holderOf } from './lock.mjs';
import { say, stop } from './say.mjs';

/*
 * Where the cluster of a data folder lies. Inside it, whenever the database's own user may enter it; else below /var/lib, and then both carry
 * each other's address: the folder in a note, the cluster in a marker. So a folder that was moved finds its own, and two copies never share one.
 */

/** In the data folder: where the cluster is that lies outside. */
const NOTE = 'where-the-database-is.txt';
/** In such a cluster: whose it is. */
const MARKER = 'rundle-data-folder.txt';
const OUTSIDE = '/var/lib/rundle';

/**
 * The folder of the cluster of a data folder; it may have to be made yet.
 * @param {string} data
 * @param {(folder: string) => boolean} canEnter whether the database's user may enter a folder
 * @returns {string} ends the program with a sentence when the cluster is another folder's, or is gone though there are masters
 */
export function clusterFolder(data, canEnter) {
  const wish = process.env['RUNDLE_STUDIO'] ?? '';
  const inside = join(data, 'postgres');
  if (isCluster(inside)) {
    if (!canEnter(data)) stop(`${data} holds its database, but the database's own user may not enter it. Move the folder, or allow that.`);
    return inside;
  }
  if (!isEmpty(inside)) stop(damaged(inside));
  const noted = readText(join(data, NOTE));
  const before = noted ?? legacyPlace(data);
  if (isCluster(before)) {
    const owner = readText(join(before, MARKER)) ?? (before === legacyPlace(data) ? data : null);
    if (owner !== data && owner !== null && holderOf(owner))
      stop(`${data} names a database that ${owner} is running on. End that one first.`);
    if (owner !== data && wish !== 'moved') refuseAnothers(data, before, owner);
    if (canEnter(data)) return moveInside(before, inside, data);
    return claim(before, data);
  }
  if (wish !== 'new') refuseWithout(data, noted);
  if (canEnter(data)) return inside;
  // The place may be another folder's by now, which was moved away and came with its cluster.
  return legacyPlace(data);
}

/** Writes into folder and cluster that they belong together. @param {string} cluster @param {string} data */
export function claim(cluster, data) {
  if (cluster === join(data, 'postgres')) return cluster;
  writeFileSync(join(cluster, MARKER), `${data}\n`);
  writeFileSync(join(data, NOTE), `${cluster}\n`);
  return cluster;
}

/** @param {string} folder */
export const isCluster = (folder) => existsSync(join(folder, 'PG_VERSION'));

/** Where the cluster of a folder lies that its user may not enter. @param {string} data */
const legacyPlace = (data) => join(OUTSIDE, createHash('sha256').update(data).digest('hex').slice(0, 12));

/**
 * A folder that was moved finds its cluster: the place that this one names is gone, or is no data folder of the same studio any more.
 * @param {string} data @param {string} cluster @param {string | null} owner the data folder that the cluster names
 */
function refuseAnothers(data, cluster, owner) {
  if (owner !== null && !sameStudio(owner, data)) return;
  stop(
    `${
      owner === null
        ? `The database that ${data} names (${cluster}) was made for a folder of another name.`
        : `${data} is a copy of ${owner}, and both name one database: ${cluster}. Two folders never share one.`
    } Nothing was changed.
If this is the folder to go on with, and no other is in use: RUNDLE_STUDIO=moved npm start
Else start with the folder that the database belongs to${owner === null ? '' : ` (RUNDLE_DATA=${owner})`}.`,
  );
}

/** @param {string} one @param {string} other */
function sameStudio(one, other) {
  const [first, second] = [one, other].map((folder) => readText(join(folder, 'studio.json')));
  return existsSync(join(one, 'masters')) && (first === null || first === second);
}

/** @param {string} data @param {string | null} noted where its database should be */
function refuseWithout(data, noted) {
  const masters = countMasters(join(data, 'masters'));
  const had = noted !== null || existsSync(join(data, 'studio.json'));
  if (masters === 0 && !had) return;
  stop(
    `The data folder ${data} is there${masters ? `, with ${masters === 1 ? '1 uploaded picture' : `${masters} uploaded pictures`}` : ''}, but its database is not${
      noted === null ? ` (${join(data, 'postgres')})` : ` (${noted}, as ${NOTE} says)`
    }. Without it nothing is known of sets, marks and presets. Nothing was changed.
Put that folder back from your copy, then start again.
To begin as a new studio that leaves what lies there alone: RUNDLE_STUDIO=new npm start`,
  );
}

/** @param {string} folder @returns {number} */
function countMasters(folder) {
  if (!existsSync(folder)) return 0;
  return readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) => /^[0-9a-f]{64}$/.test(basename(name))).length;
}

/** The cluster of a folder that its user may enter by now comes into it. @param {string} from @param {string} inside @param {string} data */
function moveInside(from, inside, data) {
  say(`The database moves from ${from} into the data folder.`);
  rmSync(inside, { recursive: true, force: true }); // it is empty
  try {
    renameSync(from, inside);
  } catch {
    // Another disk: a copy gets its name when it is whole.
    const part = join(data, 'postgres.part');
    rmSync(part, { recursive: true, force: true });
    const { status, stderr } = spawnSync('cp', ['-a', from, part], { encoding: 'utf8' });
    if (status !== 0) stop(`The database could not be copied from ${from} to ${part}:\n${stderr.trim()}\nIt is untouched where it was.`);
    renameSync(part, inside);
    rmSync(from, { recursive: true, force: true });
  }
  rmSync(join(inside, MARKER), { force: true });
  rmSync(join(data, NOTE), { force: true });
  return inside;
}

/** @param {string} folder */
const isEmpty = (folder) => !existsSync(folder) || readdirSync(folder).length === 0;

/** @param {string} folder */
const damaged = (folder) =>
  `${folder} is no whole database (its file PG_VERSION is missing). Nothing was changed. Put it back from your copy, or move it away, then start again.`;

/** @param {string} file */
function readText(file) {
  try {
    return readFileSync(file, 'utf8').trim() || null;
  } catch {
    return null;
  }
}
