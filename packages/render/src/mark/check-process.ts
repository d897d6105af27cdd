import { problemOf, type Watermark } from '@rundle/core';
import sharp from 'sharp';
import { checkWatermark } from './draw';

/*
 * Draws a watermark once, as large as it may become, in a process that whoever started it bounds in time and memory: an SVG of few bytes can ask
 * for any amount of either.
 */
sharp.concurrency(1);
process.once('disconnect', () => process.exit(0));
process.once('message', (watermark: Watermark) => {
  void checkWatermark(watermark, LARGE).then(
    () => process.send?.(null),
    (error: unknown) => process.send?.(problemOf(error, 'watermark-unreadable')),
  );
});

/** Long edge that it is drawn at, px: that of a large print copy. */
const LARGE = 2048;
