/*
 * Metadata of a JPEG stand in marker segments in front of its picture (ITU-T T.81, B.1.1.4): JFIF in APP0, EXIF and XMP in
 * APP1, IPTC-IIM in APP13. So what was written once into a small JPEG can be put into any number of others.
 */

const APP0 = 0xe0;
const APP1 = 0xe1;
const APP2 = 0xe2;
const APP13 = 0xed;
const APP14 = 0xee;
const APP15 = 0xef;
const COMMENT = 0xfe;
const START_OF_SCAN = 0xda;

interface Segment {
  marker: number;
  /** The whole segment with its marker. */
  bytes: Uint8Array;
}

/** The segments of a JPEG up to its first scan, and where they end. */
function readSegments(jpeg: Uint8Array): { segments: Segment[]; end: number } {
  const segments: Segment[] = [];
  let at = 2;
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff && jpeg[at + 1] !== START_OF_SCAN) {
    const next = at + 2 + ((jpeg[at + 2]! << 8) | jpeg[at + 3]!);
    segments.push({ marker: jpeg[at + 1]!, bytes: jpeg.subarray(at, next) });
    at = next;
  }
  return { segments, end: at };
}

const describes = ({ marker }: Segment): boolean => marker === APP0 || marker === APP1 || marker === APP13;

/** The segments of a JPEG that describe it: JFIF first, then EXIF, XMP and IPTC-IIM. */
export function describingSegments(jpeg: Uint8Array): Uint8Array {
  return Buffer.concat(
    readSegments(jpeg)
      .segments.filter(describes)
      .map(({ bytes }) => bytes),
  );
}

/** A JPEG with other describing segments; its picture and profile stay as they are. */
export function withDescribingSegments(jpeg: Uint8Array, described: Uint8Array): Buffer {
  const { segments, end } = readSegments(jpeg);
  const rest = segments.filter((segment) => !describes(segment)).map(({ bytes }) => bytes);
  return Buffer.concat([jpeg.subarray(0, 2), described, ...rest, jpeg.subarray(end)]);
}

/** A JPEG without all that is told beside its picture: metadata, profile, comments. Adobe's APP14 stays, which says how colours are coded. */
export function codedPart(jpeg: Uint8Array): Buffer {
  const { segments, end } = readSegments(jpeg);
  const isAside = ({ marker }: Segment) => (marker >= APP0 && marker <= APP15 && marker !== APP14) || marker === COMMENT;
  const kept = segments.filter((segment) => !isAside(segment)).map(({ bytes }) => bytes);
  return Buffer.concat([jpeg.subarray(0, 2), ...kept, jpeg.subarray(end)]);
}

/** The ICC profile of a JPEG, put together from its APP2 segments (ICC.1:2022, annex B.4); null: none. */
export function profileOfJpeg(jpeg: Uint8Array): Buffer | null {
  const parts = readSegments(jpeg).segments.filter(
    ({ marker, bytes }) => marker === APP2 && Buffer.from(bytes.subarray(4, 16)).toString('latin1') === 'ICC_PROFILE\0',
  );
  return parts.length ? Buffer.concat(parts.map(({ bytes }) => bytes.subarray(18))) : null;
}

/** ICC.1:2022, annex B.4: what a segment holds of a profile beside its marker, length, name and two numbers. */
const MOST_IN_SEGMENT = 65_535 - 2 - 14;

/** A JPEG with a profile in front of all its segments, in as many as it takes. */
export function withProfile(jpeg: Uint8Array, profile: Uint8Array | null): Buffer {
  if (!profile) return Buffer.from(jpeg);
  const count = Math.ceil(profile.length / MOST_IN_SEGMENT);
  const segments = Array.from({ length: count }, (_, at) => {
    const part = profile.subarray(at * MOST_IN_SEGMENT, (at + 1) * MOST_IN_SEGMENT);
    const head = Buffer.from([0xff, APP2, 0, 0, ...Buffer.from('ICC_PROFILE\0', 'latin1'), at + 1, count]);
    head.writeUInt16BE(part.length + 16, 2);
    return Buffer.concat([head, part]);
  });
  return Buffer.concat([jpeg.subarray(0, 2), ...segments, jpeg.subarray(2)]);
}
