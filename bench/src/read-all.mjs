// Decodes pictures to their ends by libvips, and does nothing with them.
import sharp from 'sharp';

sharp.concurrency(1);
sharp.cache(false);
for (const path of process.argv.slice(2))
  await sharp(path, { ignoreIcc: true, limitInputPixels: false }).raw({ depth: 'ushort' }).toBuffer();
