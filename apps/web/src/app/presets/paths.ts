import { CHANGING_RUNGS, FILE_TYPES, type Preset, putAt } from '@rundle/core';

/** A copy of the preset with another value at a path; what the new value needs beside it gets a sensible start. */
export function withValue(preset: Preset, path: string, value: unknown): Preset {
  // A mark without a watermark is none.
  if (path === 'mark.watermark' && value === null) return { ...preset, mark: null };
  const changed = putAt(preset, path, value);
  if (path === 'file.type') return suited(changed);
  if (path === 'size.unit') return { ...changed, size: converted(completed(changed.size), preset.size) };
  return path.startsWith('size.') ? { ...changed, size: completed(changed.size) } : changed;
}

/** Lengths in another unit: the picture stays as large, at the resolution named. */
function converted(size: Preset['size'], before: Preset['size']): Preset['size'] {
  const ppi = size.ppi ?? before.ppi ?? 300;
  const inches = (value: number) => ({ px: value / ppi, cm: value / 2.54, in: value })[before.unit];
  const length = (value: number | null) => {
    if (value === null || size.unit === before.unit) return value;
    const exact = inches(value) * { px: ppi, cm: 2.54, in: 1 }[size.unit];
    return size.unit === 'px' ? Math.max(1, Math.round(exact)) : Math.round(exact * 1000) / 1000;
  };
  return { ...size, px: length(size.px), width: length(size.width), height: length(size.height) };
}

/** What only some file types have goes back to its start for the others; an untouched copy leaves everything as it is. */
function suited(preset: Preset): Preset {
  const { file } = preset;
  const { lossy, bits } = FILE_TYPES[file.type];
  const own = {
    ...file,
    bits: bits.includes(file.bits) ? file.bits : bits[0]!,
    ceiling: lossy ? file.ceiling : null,
    match: lossy ? file.match : null,
  };
  if (file.type !== 'original') return { ...preset, file: own };
  const { size, colour, sharpen, metadata } = CHANGING_RUNGS;
  return {
    ...preset,
    size: size.parse({}),
    colour: colour.parse({}),
    sharpen: sharpen.parse({}),
    metadata: metadata.parse({}),
    mark: null,
    border: null,
    file: own,
  };
}

/** Every way to fit needs lengths of its own. */
function completed(size: Preset['size']): Preset['size'] {
  const boxed = size.fit === 'box' || size.fit === 'cover' || size.fit === 'stretch';
  const empty = size.width === null && size.height === null;
  return {
    ...size,
    px: size.px ?? 2048,
    width: size.width ?? (boxed && (empty || size.fit !== 'box') ? (size.px ?? 1080) : null),
    height: size.height ?? (boxed && (empty || size.fit !== 'box') ? (size.px ?? 1080) : null),
    percent: size.percent ?? (size.fit === 'percent' ? 50 : null),
    megapixels: size.megapixels ?? (size.fit === 'megapixels' ? 2 : null),
    ppi: size.ppi ?? (size.unit === 'px' ? null : 300),
  };
}
