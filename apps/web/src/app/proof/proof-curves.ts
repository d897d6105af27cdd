import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import {
  type CurvePoint,
  DIFFERENCES,
  FILE_TYPE_LABELS,
  FILE_TYPES,
  type FileTypeName,
  lighterBy,
  MOST_DIFFERENCE,
  settle,
  type TileValues,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { weight } from '../look/figures';
import { AdoptBar } from './adopt-bar';
import { type CurveAxis, CurveChart, type CurveLine } from './curve-chart';
import { CurveSource } from './curve-source';
import { ProofChoice } from './proof-choice';

/** Differences are read in thousandths. */
const THOUSAND = 1000;
const LEVELS = (Object.entries(MOST_DIFFERENCE) as [keyof typeof MOST_DIFFERENCE, number][]).map(([name, at]) => ({
  at: THOUSAND * at,
  name,
}));

const WEIGHT: CurveAxis = { title: 'Weight, KB', isLog: true };
const DIFFERENCE: CurveAxis = { title: 'Visible difference, thousandths', isLog: true, levels: LEVELS };
const QUALITY: CurveAxis = { title: 'Quality', isLog: false };

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
  imports: [NzButtonModule, AdoptBar, CurveChart],
  providers: [CurveSource],
  templateUrl: './proof-curves.html',
  styleUrls: ['./proof-tools.less', './proof-curves.less'],
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
  /** The difference that is still allowed. */
  protected readonly allowed = signal<keyof typeof MOST_DIFFERENCE>('just visible');

  protected readonly usual = computed(() => this.choice.preset()?.file.type ?? 'jpeg');
  private readonly wish = computed(() => {
    const [preset, master, types] = [this.choice.preset(), this.choice.master(), this.choice.types()];
    if (!preset || !master || !types || !FILE_TYPES[preset.file.type].lossy) return null;
    if (this.isOfSet()) return { masterIds: this.choice.masters().map(({ id }) => id), types: [preset.file.type], preset };
    return { masterIds: [master.id], types, preset };
  });
  private readonly wishKey = computed(() => {
    const wish = this.wish();
    if (!wish) return '';
    const { size, colour, sharpen, mark, border, file, metadata } = wish.preset;
    return JSON.stringify([
      wish.masterIds,
      wish.types,
      size,
      colour,
      sharpen,
      mark,
      border,
      { ...file, quality: 0, match: null },
      metadata,
    ]);
  });
  protected readonly isLossless = computed(() => !FILE_TYPES[this.usual()].lossy);

  private readonly curves = computed(() => {
    const [points, wish] = [this.source.points(), this.wish()];
    if (!wish) return [];
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
    const most = MOST_DIFFERENCE[this.allowed()];
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
    return others.length ? `At the same looks as a ${FILE_TYPE_LABELS[usual.type]} that is ${this.allowed()}: ${others.join(', ')}.` : '';
  });

  protected readonly settled = computed(() => {
    const [wish, points] = [this.wish(), this.source.points()];
    const { made, of: all } = this.source.progress();
    if (!wish || !this.isOfSet() || made < all) return null;
    const pictures = wish.masterIds.map((masterId) => points.get(`${masterId} ${this.usual()}`) ?? []);
    return { settlement: settle(pictures, MOST_DIFFERENCE[this.allowed()]), pictures: pictures.length };
  });
  protected readonly settledWords = computed(() => {
    const settled = this.settled();
    if (!settled) return null;
    const { settlement, pictures } = settled;
    if (!settlement) return `None of the qualities that were tried keeps all ${pictures} pictures “${this.allowed()}” or better.`;
    const { fixed, each } = settlement;
    const less = Math.round(100 * (1 - each.bytes / fixed.bytes));
    const own = less > 0 ? ` With a quality of its own for each, ${each.least} to ${each.most}, it would be ${less} % less.` : '';
    return `Quality ${fixed.quality} keeps all ${pictures} pictures “${this.allowed()}” or better: ${weight(fixed.bytes)} in all.${own}`;
  });

  protected readonly pickedId = linkedSignal<string, string | null>({ source: this.wishKey, computation: () => null });
  protected readonly picked = computed((): { values: TileValues; says: string; words: string } | null => {
    const settlement = this.settled()?.settlement;
    if (this.isOfSet())
      return settlement ? { values: { quality: settlement.fixed.quality }, says: `Quality ${settlement.fixed.quality}`, words: '' } : null;
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

  protected allow(word: keyof typeof MOST_DIFFERENCE): void {
    this.choice.said.set('');
    this.allowed.set(word);
  }

  protected showSet(isOfSet: boolean): void {
    this.choice.said.set('');
    this.isOfSet.set(isOfSet);
  }

  protected pick(id: string): void {
    this.choice.said.set('');
    this.pickedId.set(id);
  }

  protected wordOf({ difference }: CurvePoint): string {
    return this.words.find((word) => difference <= MOST_DIFFERENCE[word]) ?? 'poor';
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
