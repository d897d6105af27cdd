// @ts-check
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { stop } from './say.mjs';

/**
 * Holds a data folder for this program: two starts on one folder would share a database.
 * A lock whose holder is gone, or whose number now belongs to another program, does not count.
 * @param {string} data
 * @returns {() => void} lets go of it
 */
export function lockDataFolder(data) {
  const file = join(data, 'running.json');
  if (existsSync(file)) {
    const { pid, begun } = JSON.parse(readFileSync(file, 'utf8') || '{}');
    if (pid && beginOf(pid) === begun)
      stop(
        `Rundle is already running on the data folder ${data} (process ${pid}). Use that one, end it, or choose another folder with RUNDLE_DATA=FOLDER.`,
      );
  }
  writeFileSync(file, JSON.stringify({ pid: process.pid, begun: beginOf(process.pid) }));
  return () => rmSync(file, { force: true });
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
