import yauzl from 'yauzl';

/** What a ZIP holds. */
export const zipNames = (path: string) =>
  new Promise<string[]>((resolve, reject) => {
    yauzl.open(path, (error, zip) => {
      if (error) return reject(error);
      const names: string[] = [];
      zip.on('entry', ({ fileName }: { fileName: string }) => names.push(fileName));
      zip.once('end', () => resolve(names));
    });
  });

/** What a picture of a gallery shows now: how wide, of which files, and which one it has loaded. */
export interface SeenPicture {
  width: number;
  loaded: string;
  widths: number[];
  took: number;
}

/** Gives a {@link SeenPicture} for each picture of the page, once it has come. */
export const SEEN_PICTURES = `
  const done = arguments[arguments.length - 1];
  const candidates = (text) => text.split(', ').map((one) => { const [, url, width] = /^(\\S+) (\\d+)w$/.exec(one); return { url: new URL(url, document.baseURI).href, width: Number(width) }; });
  const all = [...document.querySelectorAll('.picture-page img')];
  (async () => {
    for (const image of all) {
      image.scrollIntoView();
      image.loading = 'eager';
      await image.decode();
    }
    await new Promise((next) => setTimeout(next, 300));
    done(all.map((image) => {
      const source = image.closest('picture')?.querySelector('source') ?? image;
      const files = candidates(source.srcset);
      const took = files.find(({ url }) => url === image.currentSrc);
      return { width: image.getBoundingClientRect().width, loaded: image.currentSrc, widths: files.map(({ width }) => width), took: took?.width ?? 0 };
    }));
  })();`;
