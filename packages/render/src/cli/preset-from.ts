import { writeFile } from 'node:fs/promises';
import { guessInWords, presetFrom, type PresetGuess, problemOf } from '@rundle/core';
import { useExifTool } from '../read/exiftool';
import { OnceExifTool } from '../read/exiftool-once';
import { readFinished } from '../read/finished';
import type { Call } from './call';
import { Report } from './report';

/** `rundle preset-from`: a preset by which files become like one that is there. Returns the exit code. */
export async function presetFromFile({ path, name, out, json }: Extract<Call, { command: 'preset-from' }>): Promise<number> {
  useExifTool(new OnceExifTool());
  try {
    const guess = presetFrom(await readFinished(path, name ?? undefined));
    if (json) process.stdout.write(`${JSON.stringify(guess)}\n`);
    else process.stderr.write(`${inWords(guess)}\n`);
    const text = `${JSON.stringify(guess.preset, null, 2)}\n`;
    // What is there already is somebody's.
    if (out) await writeFile(out, text, { flag: 'wx' });
    else if (!json) process.stdout.write(text);
    return 0;
  } catch (error) {
    const problem = problemOf(error, 'unreadable');
    if (json) process.stdout.write(`${JSON.stringify({ error: problem })}\n`);
    else Report.problem({ file: path, ...problem });
    return 3;
  }
}

/** One line for each value: what it is, how sure that is, and why. */
function inWords({ preset, values }: PresetGuess): string {
  return values
    .map(({ field, sure, why }) => {
      const { label, says } = guessInWords(preset, field);
      return `${sure.padEnd(9)}${label}: ${says}. ${why}`;
    })
    .join('\n');
}
