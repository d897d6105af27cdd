import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { soundFacts } from '../../facts/sound-facts';
import { StudioDetails } from '../../metadata/studio';
import { Preset } from '../../preset/schema';
import { GalleryWish } from '../delivery';
import { escapeHtml, galleryPage, visitBytes } from './page';
import { type GalleryFile, type GalleryPicture, sourcesOf } from './pictures';
import { sizesOf, smallestSufficient } from './sizes';
import { galleryText } from './text';
import { CLASSES, slotsOf, slotWidth, stretchesOf } from './slots';

const file = (path: string, width: number, height: number, type: GalleryFile['type'] = 'jpeg'): GalleryFile => ({
  path,
  type,
  width,
  height,
  bytes: width * 100,
});

/** What a browser makes of `sizes` (HTML, 4.8.4.2.2), of the few forms that are written here. */
function toldWidth(sizes: string, windowWidth: number, density: number): number {
  for (const part of sizes.split(', ')) {
    const [, conditions = '', length = ''] = /^((?:\(.*?\)(?: and )?)*) ?(.*)$/.exec(part) ?? [];
    const [, most] = /max-width: ([\d.]+)px/.exec(conditions) ?? [];
    if (most !== undefined && windowWidth > Number(most)) continue;
    if (conditions.includes('min-resolution') && density < 1.01) continue;
    const [, share, sign, more] = /^calc\(([\d.]+)vw ([+-]) ([\d.]+)px\)$/.exec(length) ?? [];
    if (share !== undefined) return (Number(share) / 100) * windowWidth + (sign === '-' ? -1 : 1) * Number(more);
    return Number(/^([\d.]+)px$/.exec(length)![1]);
  }
  throw new Error(`${sizes} says nothing for ${windowWidth}`);
}

/** The file that Chromium takes: of the two next to what is wanted the nearer one, by the geometric mean; at density 1 the larger (its `ImageCandidate` selection, from memory). */
function taken(files: readonly GalleryFile[], width: number, density: number): GalleryFile {
  const rising = files.toSorted((a, b) => a.width - b.width);
  for (const [at, one] of rising.entries()) {
    const next = rising[at + 1];
    if (!next) return one;
    const [own, above] = [one.width / width, next.width / width];
    if (own >= density) return one;
    if (above < density) continue;
    return density <= 1 || density >= Math.sqrt(own * above) ? next : one;
  }
  throw new Error('no file');
}

const ratios = fc.array(fc.double({ min: 0.4, max: 2.6, noNaN: true }), { minLength: 1, maxLength: 30 });
const layouts = fc.constantFrom('grid' as const, 'rows' as const, 'column' as const);
const widths = fc.uniqueArray(fc.integer({ min: 100, max: 4000 }), { minLength: 1, maxLength: 5 });

describe('the pictures of a gallery', () => {
  it('are fetched as the smallest file that is sufficient, in any window, at densities 1 and 2', () => {
    fc.assert(
      fc.property(
        layouts,
        ratios,
        widths,
        fc.integer({ min: 280, max: 2600 }),
        fc.constantFrom(1, 2),
        (layout, all, sizes, window, density) => {
          const slots = slotsOf(layout, all);
          const files = sizes.map((width) => file(`${width}.jpg`, width, width));
          for (const slot of slots) {
            const stretches = stretchesOf(layout, slot);
            const stands = slotWidth(stretches, window);
            const said = toldWidth(sizesOf(stretches, files), window, density);
            const chosen = taken(files, said, density).width;
            // Lengths are written with two decimals.
            const near = [-0.03, 0.03].map((off) => smallestSufficient(files, stands + off, density).width);
            expect(near).toContain(chosen);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it('fill rows to the margin, and never more', () => {
    fc.assert(
      fc.property(ratios, fc.integer({ min: 320, max: 2400 }), (all, window) => {
        const at = CLASSES.findLastIndex(({ from }) => window >= from);
        const slots = slotsOf('rows', all).map((slot) => slot[at]!);
        const inner = Math.min(window, 1600) - 2 * CLASSES[at]!.margin;
        for (let first = 0; first < slots.length; first += slots[first]!.gaps + 1) {
          const row = slots.slice(first, first + slots[first]!.gaps + 1);
          const width = row.reduce((sum, { share, gaps }) => sum + share * (inner - gaps * CLASSES[at]!.gap), 0);
          expect(width).toBeLessThanOrEqual(inner - row[0]!.gaps * CLASSES[at]!.gap);
          if (first + row.length < slots.length) expect(width).toBeGreaterThan(inner - row[0]!.gaps * CLASSES[at]!.gap - 3);
        }
      }),
    );
  });

  it('are shown by files of one shape, of two of a width by the lighter, the best type first', () => {
    const whole = [file('a.jpg', 2048, 1365), file('b.jpg', 850, 567), file('c.webp', 1500, 1000, 'webp')];
    const others = [file('square.jpg', 500, 500), file('print.tif', 4000, 2667, 'tiff'), { ...file('heavy.jpg', 850, 567), bytes: 1e6 }];
    expect(sourcesOf([...whole, ...others]).map(({ type, files }) => [type, files.map(({ path }) => path)])).toEqual([
      ['webp', ['c.webp']],
      ['jpeg', ['b.jpg', 'a.jpg']],
    ]);
    expect(sourcesOf([others[1]!])).toEqual([]);
  });
});

const picture = (text: Partial<GalleryPicture['text']>): GalleryPicture => ({
  sources: [{ type: 'jpeg', files: [file('web/a b&c.jpg', 850, 567), file('web/large.jpg', 2048, 1366)] }],
  text: { title: null, caption: null, credit: null, alt: null, ...text },
  placeholder: null,
});

describe('what a gallery tells of a picture', () => {
  const facts = { ...soundFacts, title: 'Quay', caption: 'Fog', alt: 'A quay in fog', captured: '2026-06-20T21:40:00' };
  const kept = Preset.parse({ kind: 'rundle.preset', version: 1, title: 'x' });
  const bare = { ...kept, metadata: { ...kept.metadata, description: 'remove' as const, rights: 'remove' as const } };
  const studio = StudioDetails.parse({ copyrightHolder: 'Orla Vessby' });

  it('is what all of its files carry', () => {
    expect(galleryText(facts, [kept], studio)).toEqual({
      title: 'Quay',
      caption: 'Fog',
      alt: 'A quay in fog',
      credit: '© 2026 Orla Vessby',
    });
    expect(galleryText(facts, [kept, bare], studio)).toEqual({ title: null, caption: null, alt: null, credit: null });
    // Not filled in, it is what the file itself says.
    expect(galleryText(facts, [{ ...kept, metadata: { ...kept.metadata, fill: false } }], studio).credit).toBe('Orla Vessby');
  });
});

describe('the page of a gallery', () => {
  const wish = GalleryWish.parse({ layout: 'grid', title: 'Lanterns & <boats>', text: 'One\n\nTwo\nlines' });

  it('has all text escaped, whatever it is', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        const page = galleryPage({ ...wish, title: text || '-', text }, [picture({ title: text, caption: text, credit: text, alt: text })]);
        expect(escapeHtml(text)).not.toMatch(/[<>"']/);
        const tags = page
          .replace(/<!DOCTYPE html>/, '')
          .match(/<[^>]*>/g)!
          .map((tag) => /^<\/?([a-z0-9]*)/.exec(tag)![1]);
        expect(new Set(tags)).toEqual(new Set([...new Set(tags)].filter((tag) => KNOWN.has(tag!))));
      }),
    );
  });

  it('says what a picture shows by its own text for that, else by its title', () => {
    const alts = [picture({ alt: 'A boat', title: 'T' }), picture({ title: 'Quay' }), picture({})].map(
      (one) => /alt="([^"]*)"/.exec(galleryPage(wish, [one]))![1],
    );
    expect(alts).toEqual(['A boat', 'Quay', 'Picture without a description']);
    expect(galleryPage(wish, [picture({})])).toContain('web/a%20b%26c.jpg 850w');
    expect(galleryPage({ ...wish, captions: false }, [picture({ title: 'Quay' })])).not.toContain('figcaption');
  });

  it('tells what a visitor loads', () => {
    // Two columns of 160 px at density 2 are 320 px; four of (1376 - 48) / 4 = 332 px.
    expect(visitBytes('grid', [picture({})], { windowWidth: 360, density: 2 })).toBe(85_000);
    expect(visitBytes('column', [picture({})], { windowWidth: 1440, density: 1 })).toBe(204_800);
  });
});

const KNOWN = new Set(
  'html head meta title link body main header h1 p br ul li figure a img figcaption strong span small script'.split(' '),
);
