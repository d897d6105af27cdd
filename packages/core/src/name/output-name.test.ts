import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NameRung } from '../preset/schema';
import { writeDate } from './date-pattern';
import { fileSafe } from './file-safe';
import { folderSafe } from './folder';
import { outputStem } from './output-name';
import { webSafe } from './web-safe';

const context = {
  fileName: 'Été à Łódź (1).JPG',
  set: 'Lantern evening',
  preset: 'Gallery',
  index: 6,
  width: 1365,
  height: 2048,
  captured: '1996-07-10T12:08:56+02:00',
  creator: null,
  part: null,
};
const stem = (rung: object) => outputStem(NameRung.parse(rung), context);

describe('names', () => {
  it('are built from their parts', () => {
    expect(stem({})).toBe('Ete-a-Lodz-1_2048');
    expect(stem({ webSafe: false })).toBe('Été à Łódź (1)_2048');
    const counted = [{ part: 'set' }, { part: 'text', text: '-' }, { part: 'counter', start: 10, step: 10, digits: 4 }];
    expect(stem({ parts: counted, case: 'lower' })).toBe('lantern-evening-0070');
    expect(stem({ parts: [{ part: 'date', pattern: 'yyyyMMdd' }, { part: 'width' }, { part: 'creator' }] })).toBe('199607101365');
  });

  // Unicode Technical Standard #35, part 4, section 8 "Date Format Patterns", table of examples.
  it.each([
    ["yyyy.MM.dd 'at' HH:mm:ss", '1996.07.10 at 12:08:56'],
    ["EEE, MMM d, ''yy", "Wed, Jul 10, '96"],
    ['h:mm a', '12:08 PM'],
  ])('write dates by LDML: %s', (pattern, expected) => {
    expect(writeDate(pattern, context.captured)).toBe(expected);
  });

  it('leave no date where there is none', () => {
    expect(writeDate('yyyy', '2026-02-30T00:00:00')).toBeNull();
  });

  it('get shorter where nothing is lost: never in counter, size, date or own words', () => {
    const parts = [{ part: 'original' }, { part: 'text', text: '_web_' }, { part: 'set' }, { part: 'counter' }, { part: 'long-edge' }];
    const long = outputStem(NameRung.parse({ parts, webSafe: false }), { ...context, fileName: `${'ü'.repeat(300)}.jpg`, set: 'Boats' });
    expect(long).toMatch(/^ü+_web_Boats0072048$/);
    expect(new TextEncoder().encode(long).length).toBeGreaterThan(195);
    const both = outputStem(NameRung.parse({ parts }), { ...context, fileName: `${'a'.repeat(150)}.jpg`, set: 'b'.repeat(160) });
    expect(both).toMatch(/^a{9,}_web_b{9,}0072048$/);
    expect(both.length).toBeLessThanOrEqual(200);
  });

  it('have no doubled, leading or trailing separators on the web', () => {
    expect(['_MG_1 - a.b-.', 'a -_- b', '--..x__', 'a. b'].map(webSafe)).toEqual(['MG_1-a.b', 'a_b', 'x', 'a.b']);
    expect(fileSafe('a\u202eb\u2028c')).toBe('abc');
    expect(folderSafe('web/con/Ende.')).toBe('web/_con/Ende');
  });

  it('are safe for the web and for every file system, whatever goes in', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 300 }), (text) => {
        const safe = fileSafe(text);
        const bytes = encodeURIComponent(safe).replace(/%../g, '-').length;
        return /^[A-Za-z0-9._-]*$/.test(webSafe(text)) && bytes > 0 && bytes <= 200 && !/[/\\:*?"<>|]|^[.\s-]|[.\s]$/.test(safe);
      }),
    );
    expect(fileSafe('CON.backup')).toBe('_CON.backup');
    expect(fileSafe('../..')).toBe('_');
  });
});
