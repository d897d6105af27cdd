import { FILE_TYPES, type Preset } from '@rundle/core';

/** A copy of the preset with another value at a path; what the new value needs beside it gets a sensible start. */
export function withValue(preset: Preset, path: string, value: unknown): Preset {
  // A mark without a watermark is none.
  if (path === 'mark.watermark' && value === null) return { ...preset, mark: null };
  const changed = put(preset, path.split('.'), value) as Preset;
  if (path === 'file.type') return { ...changed, file: suited(changed.file) };
  return path.startsWith('size.') ? { ...changed, size: completed(changed.size) } : changed;
}

function put(target: unknown, [key = '', ...rest]: string[], value: unknown): unknown {
  const record = isRecord(target) ? target : {};
  return { ...record, [key]: rest.length ? put(record[key], rest, value) : value };
}

/** What only some file types have goes back to its start for the others. */
function suited(file: Preset['file']): Preset['file'] {
  const { lossy, bits } = FILE_TYPES[file.type];
  return {
    ...file,
    bits: bits.includes(file.bits) ? file.bits : bits[0]!,
    ceiling: lossy ? file.ceiling : null,
    match: lossy ? file.match : null,
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

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null;
