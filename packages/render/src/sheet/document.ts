import { createRequire } from 'node:module';
import { LINE, type PageBox, placedIn, type SheetLayout, sheetLayout, type SheetLook } from '@rundle/core';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';

/** What stands under a picture. */
export interface SheetText {
  name: string;
  title: string | null;
  credit: string | null;
}

/** Source Sans 3 (SIL Open Font License 1.1): its files hold the letters of some scripts each, tried in this order. */
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext', 'vietnamese'] as const;
const packages = createRequire(import.meta.url);
const fontFile = (script: string, weight: 400 | 600) =>
  packages.resolve(`@fontsource/source-sans-3/files/source-sans-3-${script}-${weight}-normal.woff`);

const INK = '#1d2427';
const SOFT = '#5a6468';
const TEXT_SIZE = 8;

interface OpenedImage {
  width: number;
  height: number;
  obj?: unknown;
  colorSpace: unknown;
  embed(document: unknown): void;
}

/** What pdfkit has beside its types: how it opens a picture, and which glyphs a font has. */
interface Inner {
  openImage(data: Buffer): OpenedImage;
  _font: { font: { glyphForCodePoint(code: number): { id: number } } };
  ref(data: object): { end(data: Buffer): void };
}

/** Pages of pictures, written as they come: what is behind them is not held. */
export class SheetDocument {
  readonly layout: SheetLayout;
  /** The document, to be read as it grows. */
  readonly stream: PDFKit.PDFDocument;
  private readonly profiles = new Map<string, unknown>();
  private count = 0;

  /** @param pictures how many there will be @throws RangeError when there is no room for pictures */
  constructor(
    private readonly look: SheetLook,
    private readonly pictures: number,
  ) {
    this.layout = sheetLayout(look);
    const { width, height } = this.layout.page;
    // Without a font of its own: pdfkit would look for one that is not embedded.
    const options = { size: [width, height], margin: 0, autoFirstPage: false, font: null, info: { Title: look.title || 'Prints' } };
    this.stream = new PDFDocument(options as unknown as PDFKit.PDFDocumentOptions);
    for (const script of SCRIPTS)
      for (const weight of [400, 600] as const) this.stream.registerFont(`${script} ${weight}`, fontFile(script, weight));
  }

  /** Puts the next picture in its place. @param jpeg null: it could not be read, which is said in its room */
  async add(jpeg: Buffer | null, text: SheetText): Promise<void> {
    const { perPage, cells } = this.layout;
    const at = this.count++ % perPage;
    if (at === 0) this.begin();
    const { picture, text: below } = cells[at]!;
    if (jpeg) await this.draw(jpeg, picture);
    else this.missing(picture);
    let top = below.top;
    const say = (words: string | null, weight: 400 | 600, colour: string) => {
      this.line(words ?? '', { ...below, top, height: LINE }, { weight, colour, size: TEXT_SIZE, centred: true });
      top += LINE;
    };
    if (this.look.names) say(text.name, 600, INK);
    if (this.look.titles) say(text.title, 400, INK);
    if (this.look.credit) say(text.credit, 400, SOFT);
  }

  end(): void {
    this.stream.end();
  }

  private begin(): void {
    const { width, height } = this.layout.page;
    this.stream.addPage({ size: [width, height], margin: 0 });
    const { head, foot } = this.layout;
    const page = Math.floor((this.count - 1) / this.layout.perPage) + 1;
    if (head) this.line(this.look.title, head, { weight: 600, colour: INK, size: 14, centred: false });
    const pages = Math.ceil(this.pictures / this.layout.perPage);
    if (foot) this.line(`${page} of ${pages}`, foot, { weight: 400, colour: SOFT, size: TEXT_SIZE, centred: true });
  }

  /** A JPEG as it is, byte for byte, with its profile, of which the document holds one copy. */
  private async draw(jpeg: Buffer, room: PageBox): Promise<void> {
    const document = this.stream as unknown as Inner;
    const image = document.openImage(jpeg);
    const { icc, channels } = await sharp(jpeg).metadata();
    if (icc) {
      const key = icc.toString('latin1');
      if (!this.profiles.has(key)) {
        const profile = document.ref({ N: channels ?? 3 });
        profile.end(icc);
        this.profiles.set(key, profile);
      }
      image.colorSpace = ['ICCBased', this.profiles.get(key)];
    }
    const { left, top, width, height } = placedIn(room, image);
    this.stream.image(image as unknown as string, left, top, { width, height });
  }

  private missing(room: PageBox): void {
    this.stream.rect(room.left, room.top, room.width, room.height).lineWidth(0.5).strokeColor(SOFT).stroke();
    const middle = { ...room, top: room.top + room.height / 2 - LINE / 2, height: LINE };
    this.line('could not be read', middle, { weight: 400, colour: SOFT, size: TEXT_SIZE, centred: true });
  }

  /** One line, cut with an ellipsis where it is too long; each letter in the file of the font that has it. */
  private line(
    words: string,
    box: PageBox,
    { weight, colour, size, centred }: { weight: 400 | 600; colour: string; size: number; centred: boolean },
  ): void {
    const { stream } = this;
    const widthOf = (runs: readonly Run[]) =>
      runs.reduce((sum, { font, text }) => sum + stream.font(font).fontSize(size).widthOfString(text), 0);
    let letters = [...words];
    let runs = this.runsOf(letters, weight);
    while (letters.length > 1 && widthOf(runs) > box.width) {
      letters = letters.slice(0, -1);
      runs = this.runsOf([...letters, '…'], weight);
    }
    let left = centred ? box.left + Math.max(0, (box.width - widthOf(runs)) / 2) : box.left;
    stream.fillColor(colour);
    for (const { font, text } of runs) {
      stream.font(font).fontSize(size).text(text, left, box.top, { lineBreak: false });
      left += stream.widthOfString(text);
    }
  }

  private runsOf(letters: readonly string[], weight: 400 | 600): Run[] {
    const runs: Run[] = [];
    for (const letter of letters) {
      const font = this.fontWith(letter.codePointAt(0)!, weight);
      const last = runs.at(-1);
      if (last?.font === font) last.text += letter;
      else runs.push({ font, text: letter });
    }
    return runs;
  }

  private fontWith(code: number, weight: 400 | 600): string {
    const has = (font: string) => {
      this.stream.font(font);
      return (this.stream as unknown as Inner)._font.font.glyphForCodePoint(code).id > 0;
    };
    return SCRIPTS.map((script) => `${script} ${weight}`).find(has) ?? `latin ${weight}`;
  }
}

interface Run {
  font: string;
  text: string;
}
