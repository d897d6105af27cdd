import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import {
  bestLooking,
  differenceInWords,
  FILE_TYPES,
  FINEST,
  type Once,
  standingFor,
  TYPED_CEILING,
  weightCandidates,
  worstDifference,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { fileKey, matchOf, SAME_DATA } from '../look/asked';
import { weight } from '../look/figures';
import { AdoptBar } from './adopt-bar';
import { PictureOrSet } from './picture-or-set';
import { ProofChoice } from './proof-choice';
import { WeightSource, type WeightWish } from './weight-source';

/** A weight that is asked for first where the preset has no ceiling, bytes. */
const USUAL = 300_000;

/** The best looks below a weight: of each file type and each way to keep colour the finest quality that fits, with what is lost. */
@Component({
  selector: 'rd-by-weight',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, AdoptBar, PictureOrSet],
  providers: [WeightSource],
  templateUrl: './by-weight.html',
  styleUrls: ['./proof-tools.less', './measured-files.less', './by-weight.less'],
})
export class ByWeight {
  protected readonly choice = inject(ProofChoice);
  private readonly source = inject(WeightSource);
  protected readonly isOfSet = signal(false);
  /** As it stands in the field, and what it says; null: no weight. */
  protected readonly typed = linkedSignal(() => weight(this.choice.preset()?.file.ceiling?.bytes ?? USUAL));
  private readonly bytes = linkedSignal(() => this.choice.preset()?.file.ceiling?.bytes ?? USUAL);
  protected readonly wrong = signal('');
  protected readonly isLossless = computed(() => {
    const preset = this.choice.preset();
    return preset !== null && !FILE_TYPES[preset.file.type].lossy;
  });

  /** The picture, or those that stand for the set. */
  private readonly masters = computed(() => {
    const master = this.choice.master();
    return this.isOfSet() ? standingFor(this.choice.masters()) : master ? [master] : [];
  });
  private readonly candidates = computed(() => weightCandidates(this.choice.types() ?? [], this.choice.preset()?.file.type ?? ''));
  private readonly wish = computed((): WeightWish | null => {
    const [preset, masters, candidates, bytes] = [this.choice.preset(), this.masters(), this.candidates(), this.bytes()];
    if (!preset || !masters.length || !candidates.length || this.isLossless()) return null;
    // Quality, type and chroma of the preset itself make no difference.
    const any = { ...preset, file: { ...preset.file, quality: 0, match: null, ceiling: null, type: 'jpeg' as const } };
    const files = masters.map(({ id, overrides }) => fileKey({ masterId: id, preset: any, decided: JSON.stringify(overrides) }));
    const asked = { what: JSON.stringify([bytes, files]), where: '' };
    const decided = Object.fromEntries(masters.map(({ id, overrides }) => [id, JSON.stringify(overrides)]));
    return { asked, masterIds: masters.map(({ id }) => id), decided, candidates, preset, bytes };
  }, SAME_DATA);

  private readonly results = computed(() => {
    const wish = this.wish();
    return [...this.source.results().values()].filter(({ asked }) => matchOf(asked, wish?.asked) === 'wanted');
  });
  private readonly best = computed(() => bestLooking(this.results())?.key ?? null);
  protected readonly isAll = computed(() => this.rows().length > 0 && this.rows().every(({ isKnown }) => isKnown));
  protected readonly rows = computed(() => {
    const results = new Map(this.results().map((result) => [result.key, result]));
    return this.candidates().map(({ key, words, values }) => {
      const result = results.get(key);
      const worst = result ? worstDifference(result) : null;
      const files = result?.files ?? [];
      const isKnown = result !== undefined && (result.problem !== null || files.length + result.tooHeavy === result.of);
      return {
        key,
        words,
        values,
        isKnown,
        isBest: key === this.best(),
        problem: result?.problem ?? null,
        progress: result && result.of > 1 && !isKnown ? `${files.length + result.tooHeavy} of ${result.of}` : '',
        quality: rangeOf(files.map(({ quality }) => quality)),
        weight: files.length ? weight(files.reduce((sum, { bytes }) => sum + bytes, 0)) : '',
        seen: worst === null ? '' : differenceInWords(worst),
        figure: worst === null ? '' : (1000 * worst).toFixed(1),
        tooHeavy: result?.tooHeavy ? (result.of > 1 ? `${result.tooHeavy} cannot be so light` : 'cannot be so light') : '',
      };
    });
  });
  protected readonly pickedByHand = linkedSignal<string, string | null>({
    source: () => this.wish()?.asked.what ?? '',
    computation: () => null,
  });
  protected readonly picked = computed(() => {
    const key = this.pickedByHand() ?? this.best();
    return this.rows().find((row) => row.key === key) ?? null;
  });
  /** What the preset gets: for one picture its quality; for a set the weight, below which each picture gets its own. */
  protected readonly values = computed((): Once | null => {
    const picked = this.picked();
    const result = this.results().find(({ key }) => key === picked?.key);
    if (!picked || !result || worstDifference(result) === null) return null;
    return this.isOfSet()
      ? { ...picked.values, quality: FINEST, ceiling: this.bytes() }
      : { ...picked.values, quality: result.files[0]!.quality };
  });
  protected readonly sentence = computed(() => {
    const best = this.rows().find(({ isBest }) => isBest);
    const bytes = weight(this.bytes());
    if (!best) return this.isAll() ? `Nothing that was tried is below ${bytes}.` : `Looking for what is below ${bytes} …`;
    const so = this.isAll() ? 'Best below' : 'So far best below';
    return `${so} ${bytes}: ${best.words}, quality ${best.quality}; ${best.seen}.`;
  });
  protected readonly of = computed(() => {
    const [all, some] = [this.choice.masters().length, this.masters().length];
    return this.isOfSet() && some < all ? `${some} of ${all} pictures stand for the set.` : '';
  });

  constructor() {
    effect(() => {
      const wish = this.wish();
      untracked(() => this.source.want(wish));
    });
  }

  protected ask(text: string): void {
    this.choice.said.set('');
    const read = TYPED_CEILING.read(text, null)?.bytes ?? null;
    this.wrong.set(read === null ? `“${text}” is no weight. Write it like 300 KB or 1.5 MB.` : '');
    if (read === null) return;
    this.bytes.set(read);
    this.typed.set(weight(read));
  }

  protected pick(key: string): void {
    this.choice.said.set('');
    this.pickedByHand.set(key);
  }
}

const rangeOf = (numbers: readonly number[]): string => {
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
  return numbers.length === 0 ? '' : least === most ? String(least) : `${least} to ${most}`;
};
