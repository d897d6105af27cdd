// @ts-check
import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { stop } from './say.mjs';

const FILE = 'running.json';

/**
 * Holds a data folder for this program: two starts on one folder would share a database.
 * A lock whose holder is gone, or whose number now belongs to another program, does not count.
 * @param {string} data
 * @param {number} [port] at which it answers, for programs that open pages of it
 * @returns {() => void} lets go of it
 */
export function lockDataFolder(data, port) {
  const holder = holderOf(data);
  if (holder)
    stop(
      `Rundle is already running on the data folder ${data} (process ${holder}). Use that one, end it, or choose another folder with RUNDLE_DATA=FOLDER.`,
    );
  const file = join(data, FILE);
  // Under its name only when it is whole: two that start at once must not read half of it.
  writeFileSync(`${file}.part`, JSON.stringify({ pid: process.pid, begun: beginOf(process.pid), ...(port ? { port } : {}) }));
  renameSync(`${file}.part`, file);
  return () => rmSync(file, { force: true });
}

/**
 * The process that holds a data folder; a note that was half written when its writer ended names none.
 * @param {string} data
 * @returns {number | null}
 */
export function holderOf(data) {
  try {
    const { pid, begun } = JSON.parse(readFileSync(join(data, FILE), 'utf8'));
    return pid && beginOf(pid) === begun ? pid : null;
  } catch {
    return null;
  }
}

/** When a process began, in clock ticks since the machine did: field 22 of /proc/PID/stat. @param {number} pid */
function beginOf(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')')).split(' ')[20];
  } catch {
    return null;
  }
}
