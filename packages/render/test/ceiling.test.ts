import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { doneOf, folder, preset } from './pictures';

afterAll(endExifTool);

/** Photographs of Debian's package mate-backgrounds. */
const PHOTOS = '/usr/share/backgrounds/mate/nature';

describe('a weight ceiling', () => {
  it('is used up to 95 % and more by 95 of 100 photographs that end between quality 60 and 85, and never broken', async () => {
    const dir = folder();
    const rooms: number[] = [];
    for (const name of readdirSync(PHOTOS).filter((file) => file.endsWith('.jpg'))) {
      const at = (quality: number) => preset({ size: { px: 900 }, file: { quality, chroma: '4:2:0' } });
      const [light, heavy] = await doneOf(join(PHOTOS, name), join(dir, `${name} ends`), [at(60), at(86)]);
      const step = (heavy!.bytes - light!.bytes) / 5;
      const ceilings = [1, 2, 3, 4].map((steps) => Math.round(light!.bytes + steps * step));
      const presets = ceilings.map((bytes) => preset({ size: { px: 900 }, file: { quality: 94, ceiling: { bytes, floor: 30 } } }));
      const made = await doneOf(join(PHOTOS, name), join(dir, name), presets);
      made.forEach(({ bytes, quality }, at) => {
        expect(bytes).toBeLessThanOrEqual(ceilings[at]!);
        if (quality! >= 60 && quality! <= 85) rooms.push(bytes / ceilings[at]!);
      });
    }
    rooms.sort((a, b) => a - b);
    expect(rooms.length).toBeGreaterThan(30);
    expect(rooms[Math.floor(0.05 * rooms.length)]).toBeGreaterThanOrEqual(0.95);
  });
});
