import { createWriteStream, readFileSync, writeFileSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { join } from 'node:path';
import { crc32, createDeflate } from 'node:zlib';
import { masterFindings, planRun, StudioDetails, creditLines, NO_DECISIONS } from '@rundle/core';
import { afterAll, describe, expect, it } from 'vitest';
import { endExifTool } from '../src/read/exiftool';
import { readFacts } from '../src/read/facts';
import { folder, preset, testPicture } from './pictures';

afterAll(endExifTool);
const dir = folder();

/** A small PNG with a text of so many bytes in it, all the same letter (PNG specification, 11.3.3.3, zTXt). */
async function pngWithText(path: string, bytes: number): Promise<void> {
  const deflated = `${path}.z`;
  const piece = Buffer.alloc(1 << 20, 'x');
  await pipeline(
    Readable.from(
      (function* () {
        for (let sent = 0; sent < bytes; sent += piece.length) yield piece;
      })(),
    ),
    createDeflate({ level: 1 }),
    createWriteStream(deflated),
  );
  const body = Buffer.concat([Buffer.from('zTXtComment\0\0', 'latin1'), readFileSync(deflated)]);
  const chunk = Buffer.alloc(8 + body.length);
  chunk.writeUInt32BE(body.length - 4, 0);
  body.copy(chunk, 4);
  chunk.writeUInt32BE(crc32(body), 4 + body.length);
  const png = await testPicture(60, 40).png().toBuffer();
  const header = 8 + 25; // signature and IHDR
  writeFileSync(path, Buffer.concat([png.subarray(0, header), chunk, png.subarray(header)]));
}

describe('metadata that cannot be read', () => {
  it('are told, harm no other picture, and are never taken for none', async () => {
    const hostile = join(dir, 'hostile.png');
    await pngWithText(hostile, 1_700_000_000);
    const innocent = join(dir, 'innocent.jpg');
    // With something to read, so that the same program is asked.
    await testPicture(300, 200)
      .withExif({ IFD0: { Artist: 'Orla Vessby' } })
      .jpeg()
      .toFile(innocent);
    const [bad, ...good] = await Promise.all([readFacts(hostile), readFacts(innocent), readFacts(innocent)]);
    expect(bad).toMatchObject({ width: 60, height: 40, metadataUnread: true });
    expect(good.map(({ metadataUnread, rights }) => [metadataUnread, rights.creator])).toEqual([
      [false, 'Orla Vessby'],
      [false, 'Orla Vessby'],
    ]);
    expect(masterFindings(bad, 'hostile.png').map(({ code }) => code)).toContain('metadata-unread');
    expect(masterFindings(bad, 'hostile.png').map(({ code }) => code)).not.toContain('rights-missing');

    const nothing = { rights: 'remove', description: 'remove' } as const;
    const presets = [preset(), preset({ metadata: nothing, folder: 'bare' })];
    const plan = planRun({
      setTitle: 'S',
      standing: () => ({ is: 'free' }),
      masters: [{ id: 'm', fileName: 'hostile.png', read: { ok: true, facts: bad }, rating: 0, tags: [] }],
      presets: presets.map((value, at) => ({ id: String(at), preset: value, problem: null })),
    });
    expect(plan).toMatchObject([
      { status: 'failed', error: { code: 'metadata-unread' } },
      { status: 'planned', folder: 'bare' },
    ]);
    const studio = StudioDetails.parse({ creator: 'Orla Vessby' });
    expect(
      creditLines(
        [{ facts: bad, decisions: NO_DECISIONS, presets: presets.map((value, at) => ({ id: String(at), preset: value })) }],
        studio,
        StudioDetails.parse({}),
      ),
    ).toEqual([{ text: '', from: 'nobody', pictures: 1 }]);
  });
});
