import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import {
  bestWithin,
  bytesAt,
  type CurvePoint,
  differenceOf,
  DIFFERENCES,
  FILE_TYPE_LABELS,
  FILE_TYPES,
  type FileTypeName,
  lighterBy,
  likenessAt,
  MOST_DIFFERENCE,
  type Once,
  settle,
  type TileValues,
  variedInWords,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { weight } from '../look/figures';
import { fileKey, matchOf } from '../look/asked';
import { AdoptBar } from './adopt-bar';
import { type CurveAxis, CurveChart, type CurveLine, type MovableLine } from './curve-chart';
import { CurveSource } from './curve-source';
import { PictureOrSet } from './picture-or-set';
import { ProofChoice } from './proof-choice';

/** Differences are read in thousandths. */
const THOUSAND = 1000;
const LEVELS = (Object.entries(MOST_DIFFERENCE) as [keyof typeof MOST_DIFFERENCE, number][]).map(([name, at]) => ({
  at: THOUSAND * at,
  name,
}));

const WEIGHT: CurveAxis = { title: 'Weight, KB', isLog: true, first: [30, 1000] };
const DIFFERENCE: CurveAxis = { title: 'Visible difference', isLog: true, first: [1, 50], levels: LEVELS };
const QUALITY: CurveAxis = { title: 'Quality', isLog: false, first: [30, 95] };

const NOT_MADE = 'none of the files that were made';
/** Ceilings from so many KB on go by such steps. */
const COARSE_FROM = 50;
const COARSE = 5;

/** What can become the preset's; without values it can only be read. */
interface Adoptable {
  values: Once | TileValues | null;
  says: string;
  words: string;
}

/** A file that was made, as a row of the table. */
interface Row {
  id: string;
  type: FileTypeName;
  point: CurvePoint;
}

/** What quality and file type cost and show: every point is a file that was made. */
@Component({
  selector: 'rd-proof-curves',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, AdoptBar, CurveChart, PictureOrSet],
  providers: [CurveSource],
  templateUrl: './proof-curves.html',
  styleUrls: ['./proof-tools.less', './measured-files.less', './proof-curves.less'],
})
export class ProofCurves {
  protected readonly choice = inject(ProofChoice);
  protected readonly source = inject(CurveSource);
  protected readonly labels = FILE_TYPE_LABELS;
  protected readonly weightAxis = WEIGHT;
  protected readonly differenceAxis = DIFFERENCE;
  protected readonly qualityAxis = QUALITY;
  protected readonly words = DIFFERENCES.filter((word) => word !== 'poor');
  protected readonly isOfSet = signal(false);
  protected readonly asTable = signal(false);
  /** The difference that is still good enough: a line that can be moved, or one of the words. */
  protected readonly allowed = signal<number>(MOST_DIFFERENCE['just visible']);
  protected readonly allowedWords = computed(() => {
    const word = this.words.find((one) => MOST_DIFFERENCE[one] === this.allowed());
    return word ? `“${word}”` : `“${differenceOf(this.allowed())}” (${(THOUSAND * this.allowed()).toFixed(1)})`;
  });
  /** The most that a file may weigh, bytes: as the preset has it, or as the line was moved; null: whatever it weighs. */
  protected readonly ceiling = linkedSignal<number | null>(() => this.choice.preset()?.file.ceiling?.bytes ?? null);
  private readonly movableTarget = computed((): MovableLine => ({
    id: 'target',
    axis: 'up',
    at: THOUSAND * this.allowed(),
    name: 'Good enough: visible difference at most',
    says: `good enough: ${(THOUSAND * this.allowed()).toFixed(1)}`,
  }));
  private readonly movableCeiling = computed(() => {
    const bytes = this.ceiling();
    return {
      id: 'ceiling',
      at: bytes === null ? 1e9 : bytes / 1000,
      name: 'Ceiling: weight at most, KB',
      says: bytes === null ? 'no ceiling' : `at most ${weight(bytes)}`,
    };
  });
  protected readonly looksLines = computed((): MovableLine[] => [{ ...this.movableCeiling(), axis: 'across' }, this.movableTarget()]);
  protected readonly weightLines = computed((): MovableLine[] => [{ ...this.movableCeiling(), axis: 'up' }]);

  protected readonly usual = computed(() => this.choice.preset()?.file.type ?? 'jpeg');
  private readonly wish = computed(() => {
    const [preset, master, types] = [this.choice.preset(), this.choice.master(), this.choice.types()];
    if (!preset || !master || !types || !FILE_TYPES[preset.file.type].lossy) return null;
    const masters = this.isOfSet() ? this.choice.masters() : [master];
    const kinds = this.isOfSet() ? [preset.file.type] : types;
    // The curves are about all qualities, so that the preset's own does not matter.
    const any = { ...preset, file: { ...preset.file, quality: 0, match: null, ceiling: null } };
    const files = masters.map(({ id, overrides }) => fileKey({ masterId: id, preset: any, decided: JSON.stringify(overrides) }));
    const decided = Object.fromEntries(masters.map(({ id, overrides }) => [id, JSON.stringify(overrides)]));
    return {
      masterIds: masters.map(({ id }) => id),
      decided,
      types: kinds,
      preset,
      asked: { what: JSON.stringify([kinds, files]), where: '' },
    };
  });
  private readonly wishKey = computed(() => this.wish()?.asked.what ?? '');
  /** The points are those of what is wanted. */
  private readonly areThese = computed(() => matchOf(this.source.asked(), this.wish()?.asked) === 'wanted');
  protected readonly isLossless = computed(() => !FILE_TYPES[this.usual()].lossy);

  private readonly curves = computed(() => {
    const [points, wish] = [this.source.points(), this.wish()];
    if (!wish || !this.areThese()) return [];
    return wish.types.map((type) => ({ type, points: sorted(points.get(`${wish.masterIds[0]} ${type}`) ?? []) }));
  });
  /** How much of the difference is seen, by weight: the lower the line, the better the type. */
  protected readonly looks = computed((): CurveLine[] =>
    this.curves().map(({ type, points }) => ({
      name: FILE_TYPE_LABELS[type],
      points: points
        .filter(({ difference }) => difference > 0)
        .map((point) => ({ id: idOf(type, point), x: point.bytes / 1000, y: THOUSAND * point.difference, says: inWords(point) })),
    })),
  );
  protected readonly weights = computed((): CurveLine[] =>
    this.curves().map(({ type, points }) => ({
      name: FILE_TYPE_LABELS[type],
      points: points.map((point) => ({ id: idOf(type, point), x: point.quality, y: point.bytes / 1000, says: inWords(point) })),
    })),
  );
  protected readonly rows = computed((): Row[] =>
    this.curves().flatMap(({ type, points }) => points.map((point) => ({ id: idOf(type, point), type, point }))),
  );
  /** "At the same looks WebP is 31 % lighter here." */
  protected readonly sentence = computed(() => {
    const curves = this.curves();
    const usual = curves.find(({ type }) => type === this.usual());
    if (!usual) return '';
    const most = this.allowed();
    const others = curves.flatMap(({ type, points }) => {
      const share = type === usual.type ? null : lighterBy(usual.points, points, most);
      if (share === null) return [];
      const percent = Math.round(100 * Math.abs(share));
      return [
        percent === 0
          ? `${FILE_TYPE_LABELS[type]} as heavy`
          : `${FILE_TYPE_LABELS[type]} ${percent} % ${share > 0 ? 'lighter' : 'heavier'}`,
      ];
    });
    return others.length
      ? `At the same looks as a ${FILE_TYPE_LABELS[usual.type]} that is ${this.allowedWords()}: ${others.join(', ')}.`
      : '';
  });

  protected readonly settled = computed(() => {
    const [wish, points] = [this.wish(), this.source.points()];
    const { made, of: all } = this.source.progress();
    if (!wish || !this.isOfSet() || !this.areThese() || made < all) return null;
    const pictures = wish.masterIds.map((masterId) => points.get(`${masterId} ${this.usual()}`) ?? []);
    return { settlement: settle(pictures, this.allowed()), pictures: pictures.length };
  });
  protected readonly settledWords = computed(() => {
    const settled = this.settled();
    if (!settled) return null;
    const { settlement, pictures } = settled;
    if (!settlement) return `None of the qualities that were tried keeps all ${pictures} pictures ${this.allowedWords()} or better.`;
    const { fixed, each } = settlement;
    const less = Math.round(100 * (1 - each.bytes / fixed.bytes));
    const own = less > 0 ? ` With a quality of its own for each, ${each.least} to ${each.most}, it would be ${less} % less.` : '';
    return `Quality ${fixed.quality} keeps all ${pictures} pictures ${this.allowedWords()} or better: ${weight(fixed.bytes)} in all.${own}`;
  });

  protected readonly pickedId = linkedSignal<string, string | null>({ source: this.wishKey, computation: () => null });
  protected readonly picked = computed((): Adoptable | null => {
    const settlement = this.settled()?.settlement;
    if (this.isOfSet())
      return settlement ? { values: { quality: settlement.fixed.quality }, says: `Quality ${settlement.fixed.quality}`, words: '' } : null;
    if (this.pickedId() === 'target') return this.target();
    if (this.pickedId() === 'ceiling') return this.atMost();
    const row = this.rows().find(({ id }) => id === this.pickedId());
    if (!row) return null;
    const { type, point } = row;
    const values: TileValues = type === this.usual() ? { quality: point.quality } : { quality: point.quality, type };
    return { values, says: `${FILE_TYPE_LABELS[type]}, quality ${point.quality}`, words: inWords(point) };
  });

  constructor() {
    let before = '';
    effect(() => {
      const key = this.wishKey();
      if (key === before) return;
      before = key;
      untracked(() => this.source.want(this.wish()));
    });
  }

  /** What is good enough as a preset's visual target: the likeness that this picture has there. */
  private target(): Adoptable | null {
    const points = this.curves().find(({ type }) => type === this.usual())?.points ?? [];
    const [likeness, bytes] = [likenessAt(points, this.allowed()), bytesAt(points, this.allowed())];
    if (likeness === null || bytes === null) return { values: null, says: `Good enough: ${this.allowedWords()}`, words: NOT_MADE };
    const match = Math.max(0.9, Math.round(1000 * likeness) / 1000);
    const says = `Visual target: ${variedInWords({ match }).join()}`;
    return { values: { match }, says, words: `each picture at the lowest quality that does; this one would weigh about ${weight(bytes)}` };
  }

  /** What a ceiling leaves of this picture. */
  private atMost(): Adoptable | null {
    const ceiling = this.ceiling();
    if (ceiling === null) return null;
    const best = this.curves().flatMap(({ type, points }) => {
      const point = bestWithin(points, ceiling);
      return point ? [`${FILE_TYPE_LABELS[type]} quality ${point.quality}: ${differenceOf(point.difference)}`] : [];
    });
    return { values: { ceiling }, says: `At most ${weight(ceiling)}`, words: best.length ? best.join(', ') : NOT_MADE };
  }

  protected move({ id, at }: { id: string; at: number }): void {
    this.choice.said.set('');
    this.pickedId.set(id);
    if (id === 'target') this.allowed.set(Math.round(10 * at) / 10 / THOUSAND);
    else this.ceiling.set(1000 * Math.max(1, at < COARSE_FROM ? Math.round(at) : COARSE * Math.round(at / COARSE)));
  }

  protected allow(word: keyof typeof MOST_DIFFERENCE): void {
    this.choice.said.set('');
    this.allowed.set(MOST_DIFFERENCE[word]);
  }

  protected pick(id: string): void {
    this.choice.said.set('');
    this.pickedId.set(id);
  }

  protected wordOf({ difference }: CurvePoint): string {
    return differenceOf(difference);
  }

  protected isAllowed(word: keyof typeof MOST_DIFFERENCE): boolean {
    return this.allowed() === MOST_DIFFERENCE[word];
  }

  protected thousandths({ difference }: CurvePoint): string {
    return (THOUSAND * difference).toFixed(1);
  }

  protected weightOf({ bytes }: CurvePoint): string {
    return weight(bytes);
  }
}

const sorted = (points: readonly CurvePoint[]): CurvePoint[] => points.toSorted((a, b) => a.quality - b.quality);
const idOf = (type: FileTypeName, { quality }: CurvePoint): string => `${type} ${quality}`;
const inWords = ({ quality, bytes, difference }: CurvePoint): string =>
  `quality ${quality}: ${weight(bytes)}, difference ${(THOUSAND * difference).toFixed(1)}`;
