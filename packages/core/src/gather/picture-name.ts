/** Extensions under which people keep pictures. Whether one can be read, its content decides. */
const EXTENSIONS = new Set(
  'jpg jpeg jpe jfif tif tiff png webp avif heic heif gif psd psb dng nef cr2 cr3 arw raf orf rw2 pef bmp jxl jp2'.split(' '),
);

/** Whether a file is called as pictures are: what a folder offers. A file that another program is still fetching has another ending, mostly. */
export const isPictureName = (fileName: string): boolean => EXTENSIONS.has(/\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '');
