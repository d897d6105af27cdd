import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { soundFacts } from '../../facts/sound-facts';
import { StudioDetails } from '../../metadata/studio';
import { Preset } from '../../preset/schema';
import { chaptersOf } from './chapters';
import { galleryPaths } from './files';
import { escapeHtml } from './html';
import { pictureIds, visitBytes } from './list';
import { galleryPage } from './page';
import { type GalleryFile, type GalleryPicture, sourcesOf, withTypedText } from './pictures';
import { sizesOf, smallestSufficient } from './sizes';
import { galleryText } from './text';
import { CLASSES, slotsOf, slotWidth, stretchesOf } from './slots';
import { GalleryWish } from './wish';
import { GALLERY_LANGUAGES, galleryWords } from './words';

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
    const [, least] = /min-resolution: ([\d.]+)dppx/.exec(conditions) ?? [];
    if (least !== undefined && density < Number(least)) continue;
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
  it('are fetched as the smallest file that is sufficient, in any window, at densities 1, 2 and 3', () => {
    fc.assert(
      fc.property(
        layouts,
        ratios,
        widths,
        fc.integer({ min: 280, max: 2600 }),
        fc.constantFrom(1, 2, 3),
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

const picture = (text: Partial<GalleryPicture['text']>, more: Partial<GalleryPicture> = {}): GalleryPicture => ({
  id: '7d1f0a52-0000-4000-8000-000000000001',
  tags: [],
  captured: null,
  sources: [{ type: 'jpeg', files: [file('web/a b&c.jpg', 850, 567), file('web/large.jpg', 2048, 1366)] }],
  text: { title: null, caption: null, credit: null, alt: null, ...text },
  placeholder: null,
  ...more,
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
        const page = galleryPage(
          { ...wish, title: text || '-', text, photographer: text, footer: text, cover: 'first', chapters: 'tag', downloads: 'all' },
          [picture({ title: text, caption: text, credit: text, alt: text }, { tags: [text || '-'] }), picture({})],
          { pictures: 2, bytes: 1000 },
        );
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
      (one) => /alt="([^"]*)"/.exec(galleryPage(wish, [one], null))![1],
    );
    expect(alts).toEqual(['A boat', 'Quay', 'Picture 1']);
    expect(galleryPage(wish, [picture({})], null)).toContain('web/a%20b%26c.jpg 850w');
    expect(galleryPage({ ...wish, captions: false }, [picture({ title: 'Quay' })], null)).not.toContain('figcaption');
  });

  it('tells what a visitor loads', () => {
    // Two columns of 160 px at density 2 are 320 px; four of (1376 - 48) / 4 = 332 px.
    expect(visitBytes(wish, [picture({})], { windowWidth: 360, density: 2 })).toBe(85_000);
    expect(visitBytes({ ...wish, layout: 'column' }, [picture({})], { windowWidth: 1440, density: 1 })).toBe(204_800);
  });
});

describe('a page made for a client', () => {
  const wish = GalleryWish.parse({ layout: 'rows', title: 'Lanterns' });
  const three = ['quay', 'boats', 'quay'].map((tag, at) =>
    picture(
      {},
      { id: `7d1f0a52-0000-4000-8000-00000000000${at}`, tags: at === 2 ? [] : [tag], captured: `2026-06-2${at === 1 ? 1 : 0}T21:00:00` },
    ),
  );

  it('has chapters by tag in the order of the set, those without one last; by day in the order of the days', () => {
    expect(chaptersOf(three, 'tag', 'en').map(({ heading, pictures }) => [heading, pictures.length])).toEqual([
      ['quay', 1],
      ['boats', 1],
      [null, 1],
    ]);
    expect(chaptersOf(three, 'day', 'nl').map(({ heading, pictures }) => [heading, pictures.length])).toEqual([
      ['zaterdag 20 juni 2026', 2],
      ['zondag 21 juni 2026', 1],
    ]);
    expect(chaptersOf([picture({}, { captured: '2026-00-00T00:00:00' })], 'day', 'en')[0]!.heading).toBe('2026-00-00');
    const page = galleryPage({ ...wish, chapters: 'tag' }, three, null);
    expect(page.match(/href="#chapter-\d"/g)).toEqual(['href="#chapter-1"', 'href="#chapter-2"']);
    expect(page.match(/<h2 id="chapter-\d">/g)).toHaveLength(2);
  });

  it('has one address per picture, whatever their names are', () => {
    const named = (path: string, id: string) => picture({}, { id, sources: [{ type: 'jpeg', files: [file(path, 900, 600)] }] });
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'binary' }), { maxLength: 12 }), (names) => {
        const ids = [...pictureIds(names.map((name, at) => named(`a/${name}.jpg`, `0000000${at.toString(16)}-x`))).values()];
        expect(new Set(ids).size).toBe(names.length);
        for (const id of ids) expect(id).toMatch(/^[A-Za-z][A-Za-z0-9-]*$/);
      }),
    );
  });

  it('shows a title picture over the whole width, and fetches it first', () => {
    const page = galleryPage({ ...wish, cover: three[1]!.id }, three, null);
    expect(page.match(/fetchpriority="high"/g)).toHaveLength(1);
    expect(/<div class="cover"><img [^>]*fetchpriority="high"/.test(page)).toBe(true);
    expect(galleryPage({ ...wish, cover: '7d1f0a52-0000-4000-8000-0000000000ff' }, three, null)).not.toContain('class="cover"');
  });

  it('names its photographer, and leads to no other place than was written down', () => {
    const page = galleryPage({ ...wish, photographer: 'Orla Vessby', link: 'https://vessby.example/' }, three, null);
    expect(page).toContain('<p class="by"><a href="https://vessby.example/">Orla Vessby</a></p>');
    for (const link of ['javascript:alert(1)', 'vessby.example', 'file:///etc/passwd'])
      expect(GalleryWish.safeParse({ ...wish, link }).success).toBe(false);
  });

  it('says what was typed for it only where a picture has no words of its own', () => {
    const typed = { [three[0]!.id]: 'Fog on the quay' };
    expect(withTypedText(three[0]!, typed).text.title).toBe('Fog on the quay');
    expect(withTypedText(picture({ title: 'Own' }, { id: three[0]!.id }), typed).text.title).toBe('Own');
    expect(galleryPage({ ...wish, texts: typed }, three, null)).toContain('alt="Fog on the quay"');
  });

  it('has every word of its own in each of its languages', () => {
    for (const language of GALLERY_LANGUAGES) for (const word of Object.values(galleryWords(language))) expect(word).toMatch(/\S/);
    expect(galleryWords('pt-BR').close).toBe('Fechar');
    expect(galleryPage({ ...wish, language: 'de', downloads: 'all' }, three, { pictures: 3, bytes: 2_400_000 })).toContain(
      '>Alle 3 Bilder herunterladen</a> <span>ZIP, 2.4 MB</span>',
    );
    expect(galleryPaths({ downloads: 'all' })).toContain('pictures.zip');
    expect(galleryPaths({ downloads: 'each' })).not.toContain('pictures.zip');
  });
});

const KNOWN = new Set(
  'html head meta title link body main header footer nav section div h1 h2 p br ul li figure a img figcaption strong span small script'.split(
    ' ',
  ),
);
