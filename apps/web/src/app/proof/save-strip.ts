import type { PixelSize } from '@rundle/core';

/** A strip as it is to be kept. */
export interface StripPicture {
  title: string;
  /** Row by row; the pictures are those on screen. */
  tiles: readonly { url: string | null; lines: readonly string[] }[];
  columns: number;
  /** Of a tile's picture, px. */
  size: PixelSize;
}

const GAP = 12;
const LINE = 20;

/** Saves a strip as one PNG with its words under each tile: pixel for pixel as it was judged. */
export async function saveStrip({ title, tiles, columns, size }: StripPicture): Promise<void> {
  const rows = Math.ceil(tiles.length / columns);
  const lines = Math.max(...tiles.map((tile) => tile.lines.length));
  const high = size.height + lines * LINE + GAP;
  const canvas = new OffscreenCanvas(GAP + columns * (size.width + GAP), 2 * GAP + LINE + rows * high);
  const drawing = canvas.getContext('2d')!;
  const family = getComputedStyle(document.body).fontFamily;
  drawing.fillStyle = '#ffffff';
  drawing.fillRect(0, 0, canvas.width, canvas.height);
  drawing.fillStyle = '#1d2226';
  drawing.font = `600 16px ${family}`;
  drawing.fillText(title, GAP, GAP + 14);
  drawing.font = `14px ${family}`;
  for (const [at, tile] of tiles.entries()) {
    const [left, top] = [GAP + (at % columns) * (size.width + GAP), 2 * GAP + LINE + Math.floor(at / columns) * high];
    if (tile.url) drawing.drawImage(await pictureAt(tile.url), left, top);
    for (const [line, words] of tile.lines.entries()) drawing.fillText(words, left, top + size.height + 15 + line * LINE, size.width);
  }
  const link = document.createElement('a');
  link.href = URL.createObjectURL(await canvas.convertToBlob({ type: 'image/png' }));
  link.download = `${title.replace(/\.\w+(?=, )/, '').replace(/[^\p{L}\p{N}_.-]+/gu, '-')}-strip.png`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

async function pictureAt(url: string): Promise<HTMLImageElement> {
  const image = new Image();
  image.src = url;
  await image.decode();
  return image;
}
