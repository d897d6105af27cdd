import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Preset, type PresetInput } from '../preset/schema';
import { outputGeometry } from '../size/geometry';
import { betterForFeed, EXAMPLE_FEEDS, Feed, feedInWords, leastLost, outcomeInWords, presetAsShown } from './feed';

const preset = (more: Partial<PresetInput>) => Preset.parse({ kind: 'rundle.preset', version: 1, title: 'Web', ...more });
const [harbour, lantern] = EXAMPLE_FEEDS as [Feed, Feed];

describe('a feed', () => {
  it('is described in words, and the ones that ship are valid', () => {
    for (const feed of EXAMPLE_FEEDS) expect(Feed.parse(feed)).toEqual(feed);
    expect(feedInWords(harbour)).toMatch(/^Shows 2048 px .* leaves a JPEG that fits and weighs 1,500 KB at most as it is/);
    expect(feedInWords(lantern)).toContain('compresses every picture again at quality 72');
  });

  it('shows a preset’s picture at a size that the preset then makes to the pixel, whatever governs its size, with its border', () => {
    const fit = fc.constantFrom<PresetInput['size']>(
      { px: 3000 },
      { fit: 'short-edge', px: 2000 },
      { fit: 'cover', width: 1800, height: 1800 },
      { fit: 'box', width: 2500, height: 2000 },
      { fit: 'percent', percent: 60 },
      { fit: 'original' },
      { px: 30, unit: 'cm', ppi: 254 },
    );
    const side = fc.integer({ min: 3200, max: 6000 });
    fc.assert(
      fc.property(fit, side, side, fc.constantFrom(0, 40), (size, width, height, border) => {
        const value = preset({ size, border: border ? { px: border } : null });
        const withBorder = (one: Preset) => {
          const { output } = outputGeometry(one.size, { width, height });
          const edge = 2 * (one.border?.px ?? 0);
          return { width: output.width + edge, height: output.height + edge };
        };
        const sent = withBorder(value);
        const scale = 1080 / Math.max(sent.width, sent.height);
        const shown = { width: Math.round(sent.width * scale), height: Math.round(sent.height * scale) };
        expect(withBorder(presetAsShown(value, sent, shown))).toEqual(shown);
      }),
    );
  });

  it('is offered its own size where the picture is larger, and more quality where it compresses everything again', () => {
    const sent = { width: 3000, height: 2000 };
    const light = { quality: 95, ceiling: harbour.leaves };
    expect(betterForFeed(preset({ size: { px: 3000 } }), harbour, sent)).toEqual([
      { px: 2048, ...light },
      { px: 1638, ...light },
    ]);
    expect(betterForFeed(preset({ size: { px: 900 }, file: { type: 'webp' } }), harbour, { width: 900, height: 600 })).toEqual([
      { type: 'jpeg', ...light },
      { px: 720, type: 'jpeg', ...light },
    ]);
    expect(betterForFeed(preset({ size: { px: 3000 } }), lantern, sent)).toEqual([{ px: 1440 }, { px: 1440, quality: 95 }]);
    expect(betterForFeed(preset({ size: { px: 900 } }), lantern, { width: 900, height: 600 })).toEqual([{ quality: 95 }]);
    expect(betterForFeed(preset({ size: { px: 900 }, file: { quality: 96 } }), lantern, { width: 900, height: 600 })).toEqual([]);
    // What is cut to a box keeps its box.
    expect(betterForFeed(preset({ size: { fit: 'cover', width: 3000, height: 2000 } }), lantern, sent)).toEqual([]);
  });

  it('takes something of a picture, which is told and compared', () => {
    const words = (deed: 'left' | 'shrunk' | 'compressed', fineContrast: number, difference: number) =>
      outcomeInWords({ deed, fineContrast, difference });
    expect(words('left', 0.97, 0.001)).toBe('leaves it alone, and no difference is seen');
    expect(words('shrunk', 0.62, 0.05)).toBe('makes it smaller; it loses 38 % of its fine contrast, and it looks poor');
    expect(words('compressed', 0.998, 0.005)).toBe('compresses it again; its fine contrast stays, and a difference is just visible');
    expect(words('compressed', 1.06, 0.02)).toBe('compresses it again; it gets 6 % of false contrast, and the difference is visible');
    const trip = (difference: number, width: number) => ({ difference, shown: { width, height: 9, bytes: 9 } });
    const all = [trip(0.03, 2048), trip(0.006, 1440), trip(0.0061, 2048), trip(0.009, 2048)];
    expect(leastLost(all)).toBe(all[2]);
    // Of two whose difference is said in one word the larger is better; of one word less, the smaller.
    expect(leastLost([trip(0.003, 1638), trip(0.0034, 2048)])?.shown.width).toBe(2048);
    expect(leastLost([trip(0.003, 1638), trip(0.004, 2048)])?.shown.width).toBe(1638);
    expect(leastLost([])).toBeNull();
  });
});
