import { mkdir, rename, rm, truncate } from 'node:fs/promises';
import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import sharp, { type Sharp } from 'sharp';
import { type DemoMaster, MASTERS, STUDIO } from './scenario';

/**
 * Makes the demo masters from the base pictures: enlarged, with photographic grain so that their weights are real, in the
 * mix of colour spaces, orientations and metadata that the job meets. What is there already is not made again.
 * @param demo the project's `demo` folder
 * @param target where the masters go
 * @param scale shrinks all long edges, for tests; 1 is the real thing
 */
export async function makeMasters(demo: string, target: string, scale: number, tell: (line: string) => void): Promise<void> {
  const missing = MASTERS.filter(({ fileName }) => !existsSync(join(target, fileName)));
  if (missing.length === 0) return;
  await mkdir(target, { recursive: true });
  const exiftool = new ExifTool({ maxProcs: 2, geolocation: false });
  const queue = missing.entries();
  const work = async () => {
    for (const [index, master] of queue) {
      await makeMaster(demo, target, master, scale, exiftool);
      tell(`demo picture ${index + 1} of ${missing.length}: ${master.fileName}`);
    }
  };
  try {
    await Promise.all([work(), work()]);
  } finally {
    await exiftool.end();
  }
}

async function makeMaster(demo: string, target: string, master: DemoMaster, scale: number, exiftool: ExifTool): Promise<void> {
  const path = join(target, master.fileName);
  const aside = join(target, `.${master.base}.part${master.kind === 'romm-tiff' ? '.tif' : '.jpg'}`);
  await rm(aside, { force: true });
  const { pixels, width, height } = await enlargedWithGrain(join(demo, 'base', `${master.base}.jpg`), master, scale);
  const raw = sharp(pixels, { raw: { width, height, channels: 3 }, limitInputPixels: false });
  const lying = master.turned ? raw.rotate(master.turned === 6 ? -90 : 90) : raw;
  await store(lying, master, demo, aside);
  await exiftool.write(aside, tagsOf(master), { writeArgs: ['-overwrite_original', ...profileToAssign(master, demo)] });
  if (master.cutAt) await truncate(aside, Math.round(statSync(aside).size * master.cutAt));
  await rename(aside, path);
}

/** Grain by a table of normally distributed numbers (Box-Muller), from a fixed seed. */
const GRAIN = Float32Array.from({ length: 1 << 18 }, (_, index) => {
  const uniform = (salt: number) => (((Math.sin(index * 12.9898 + salt) * 43758.5453) % 1) + 1) % 1;
  return Math.sqrt(-2 * Math.log(uniform(1) || 1e-6)) * Math.cos(2 * Math.PI * uniform(7)) * 3.2;
});

async function enlargedWithGrain(base: string, { long }: DemoMaster, scale: number) {
  const edge = Math.round(long * scale);
  const { data, info } = await sharp(base)
    .resize({ width: edge, height: edge, fit: 'inside', kernel: 'cubic' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  for (let at = 0; at < data.length; at += 3) {
    const grain = GRAIN[(at * 7 + (at >>> 13) * 31) & (GRAIN.length - 1)] ?? 0;
    for (let channel = 0; channel < 3; channel++) data[at + channel] = Math.min(255, Math.max(0, (data[at + channel] ?? 0) + grain));
  }
  return { pixels: data, width: info.width, height: info.height };
}

async function store(image: Sharp, { kind, quality }: DemoMaster, demo: string, path: string): Promise<void> {
  const jpeg = { quality, chromaSubsampling: '4:4:4' };
  if (kind === 'romm-tiff')
    await image
      .toColourspace('rgb16')
      .withIccProfile(join(demo, 'profiles/romm-rgb.icc'))
      .tiff({ compression: 'deflate', predictor: 'horizontal' })
      .toFile(path);
  else if (kind === 'cmyk') await image.toColourspace('cmyk').withIccProfile('cmyk').jpeg(jpeg).toFile(path);
  else if (kind === 'srgb') await image.withIccProfile('srgb').jpeg(jpeg).toFile(path);
  else await image.jpeg(jpeg).toFile(path);
}

/** The Adobe RGB masters keep the numbers and get another meaning for them, so that some colours lie outside sRGB. */
const profileToAssign = ({ kind }: DemoMaster, demo: string): string[] =>
  kind === 'adobe-rgb' ? [`-ICC_Profile<=${join(demo, 'profiles/compatible-with-adobe-rgb-1998.icc')}`] : [];

const SUNSET = Date.UTC(2026, 5, 20, 21, 40, 0);

function tagsOf(master: DemoMaster): Record<string, unknown> {
  const time = new Date(SUNSET + master.minute * 60_000 + master.base.length * 1000).toISOString().slice(0, 19);
  const phone = master.fileName.startsWith('phone');
  return {
    'EXIF:DateTimeOriginal': time.replaceAll('-', ':').replace('T', ' '),
    'EXIF:OffsetTimeOriginal': '+02:00',
    'EXIF:Make': 'Quillon',
    'EXIF:Model': phone ? 'Quillon Pocket' : 'Quillon Q5',
    ...(phone ? {} : { 'EXIF:LensModel': 'Quillon 24-70mm F2.8', 'EXIF:FocalLength': 35 }),
    'EXIF:ISO': master.minute > 0 ? 1600 : 200,
    'XMP-xmp:Rating': master.stars,
    'XMP-dc:Title': master.title,
    'IPTC:ObjectName': master.title,
    'XMP-dc:Subject': master.keywords,
    'IPTC:Keywords': master.keywords,
    'IPTC:CodedCharacterSet': 'UTF8',
    ...(master.turned ? { 'EXIF:Orientation#': master.turned } : {}),
    ...(master.withoutCredit ? {} : credit()),
    ...(master.gps ? gps(master) : {}),
  };
}

function credit(): Record<string, string> {
  const notice = `© 2026 ${STUDIO.copyrightHolder}`;
  return {
    'EXIF:Artist': STUDIO.creator,
    'IPTC:By-line': STUDIO.creator,
    'XMP-dc:Creator': STUDIO.creator,
    'EXIF:Copyright': notice,
    'IPTC:CopyrightNotice': notice,
    'XMP-dc:Rights': notice,
    'IPTC:Credit': STUDIO.credit,
    'XMP-photoshop:Credit': STUDIO.credit,
  };
}

/** A point in the open sea, where no town is. */
const gps = ({ minute }: DemoMaster): Record<string, unknown> => ({
  'EXIF:GPSLatitude': 40 + minute / 100_000,
  'EXIF:GPSLatitudeRef': 'N',
  'EXIF:GPSLongitude': 30,
  'EXIF:GPSLongitudeRef': 'W',
});
