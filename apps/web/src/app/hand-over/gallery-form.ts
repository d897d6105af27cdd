import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import {
  type DeliveryPreview,
  GALLERY_CHAPTERS,
  GALLERY_DOWNLOADS,
  GALLERY_LANGUAGES,
  GALLERY_LAYOUTS,
  GALLERY_LOOKS,
  type GalleryChapters,
  type GalleryDownloads,
  type GalleryLayout,
  type GalleryLook,
  hasOwnWords,
  OTHER_LANGUAGES,
} from '@rundle/core';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { thumbnailUrl } from '../api/api';
import { counted } from '../look/figures';
import { SelectName } from '../look/select-name';
import { setFeature } from '../set/set.store';
import type { DeliveryDraft, DraftField, DraftProblem } from './delivery-draft';

const LAYOUTS: Record<GalleryLayout, string> = { grid: 'a grid', rows: 'rows of equal height', column: 'one column with text' };

const LOOKS: Record<GalleryLook, { name: string; what: string }> = {
  device: { name: 'as the visitor’s device', what: 'White by day, black where the device is set to dark' },
  white: { name: 'white', what: 'White on every device' },
  grey: { name: 'grey', what: 'A neutral grey, by which colours are judged best' },
  black: { name: 'black', what: 'Black on every device' },
};

type Untold = DeliveryPreview['untold'];

interface Option {
  value: string;
  words: string;
}

/** A list of which one is chosen. */
interface List {
  name: string;
  chosen: string;
  options: Option[];
  change: (value: string) => Partial<DeliveryDraft>;
}

/** How a list tells that there is no title picture. */
const NO_COVER = 'none';

const optionsOf = <Value extends string>(values: readonly Value[], words: Record<Value, string>): Option[] =>
  values.map((value) => ({ value, words: words[value] }));

/** What a gallery page is made of: words, looks, chapters, downloads. */
@Component({
  selector: 'rd-gallery-form',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzSelectModule, SelectName],
  templateUrl: './gallery-form.html',
  styleUrl: './gallery-form.less',
})
export class GalleryForm {
  readonly draft = input.required<DeliveryDraft>();
  readonly problem = input.required<DraftProblem | null>();
  /** Pictures that the page has no words for; null: not known yet. */
  readonly untoldNow = input.required<Untold | null>();
  readonly changed = output<Partial<DeliveryDraft>>();

  private readonly selected = inject(Store).selectSignal(setFeature.selectSelectedMasters);
  private readonly masters = inject(Store).selectSignal(setFeature.selectMasters);
  protected readonly layouts = GALLERY_LAYOUTS.map((id) => ({ id, name: LAYOUTS[id] }));
  protected readonly looks = GALLERY_LOOKS.map((id) => ({ id, ...LOOKS[id] }));

  /** Pictures that can be the title: the one that is, and those that are selected. */
  private readonly covers = computed(() => {
    const { cover } = this.draft();
    const ids = new Set(this.selected().map(({ id }) => id));
    return this.masters().filter(({ id }) => id === cover || ids.has(id));
  });

  private readonly languages = computed((): Option[] => {
    const names = new Intl.DisplayNames(['en'], { type: 'language' });
    const codes = new Set([...GALLERY_LANGUAGES, ...OTHER_LANGUAGES, this.draft().language]);
    return [...codes]
      .map((value) => ({ value, words: `in ${names.of(value) ?? value}${hasOwnWords(value) ? '' : ', with English buttons'}` }))
      .sort((a, b) => a.words.localeCompare(b.words, 'en'));
  });
  /** What is chosen out of a few. */
  protected readonly lists = computed((): List[] => {
    const { cover, chapters, downloads, language } = this.draft();
    const covers = this.covers().map(({ id, fileName }) => ({ value: id, words: `${fileName} as title` }));
    return [
      {
        name: 'Title picture',
        chosen: cover ?? NO_COVER,
        options: [{ value: NO_COVER, words: 'no title picture' }, { value: 'first', words: 'the first picture as title' }, ...covers],
        change: (value) => ({ cover: value === NO_COVER ? null : value }),
      },
      {
        name: 'Chapters',
        chosen: chapters,
        options: optionsOf(GALLERY_CHAPTERS, { none: 'no chapters', tag: 'a chapter per tag', day: 'a chapter per day' }),
        change: (value) => ({ chapters: value as GalleryChapters }),
      },
      {
        name: 'Downloads',
        chosen: downloads,
        options: optionsOf(GALLERY_DOWNLOADS, {
          none: 'no downloads offered',
          each: 'each picture to download',
          all: 'each picture and all as a ZIP',
        }),
        change: (value) => ({ downloads: value as GalleryDownloads }),
      },
      { name: 'Language of the page', chosen: language, options: this.languages(), change: (value) => ({ language: value }) },
    ];
  });

  /** Those of the last answer stay while the next one is waited for, and those that have words now: they can still be changed. */
  protected readonly listed = linkedSignal<Untold | null, Untold>({
    source: this.untoldNow,
    computation: (now, before) => {
      const texts = this.draft().texts;
      const told = (before?.value ?? []).filter(({ masterId }) => texts[masterId] !== undefined);
      const names = new Map(this.masters().map(({ id, fileName }) => [id, fileName]));
      const known = new Set([...told, ...(now ?? [])].map(({ masterId }) => masterId));
      const others = Object.keys(texts).filter((id) => !known.has(id) && names.has(id));
      const all = [...told, ...others.map((masterId) => ({ masterId, fileName: names.get(masterId)! })), ...(now ?? before?.value ?? [])];
      const unique = new Map(all.map((one) => [one.masterId, one]));
      const order = new Map(this.masters().map(({ id }, at) => [id, at]));
      return [...unique.values()].sort((a, b) => (order.get(a.masterId) ?? 0) - (order.get(b.masterId) ?? 0));
    },
  });
  protected readonly untold = computed(() => this.untoldNow() ?? []);
  protected readonly typed = computed(() => Object.keys(this.draft().texts).length);
  protected readonly untoldSentence = computed(() => {
    const [left, typed] = [this.untold().length, this.typed()];
    const words = typed ? `; ${typed} typed here` : '';
    return left === 0
      ? `All pictures have words${words}`
      : `${counted(left, 'picture')} ${left === 1 ? 'has' : 'have'} no title and no description${words}`;
  });

  protected thumbnail(id: string): string {
    return thumbnailUrl({ id });
  }

  protected fault(field: DraftField): string | null {
    const problem = this.problem();
    return problem?.field === field ? problem.sentence : null;
  }

  protected type(masterId: string, text: string): void {
    const others = Object.entries(this.draft().texts).filter(([id]) => id !== masterId);
    const typed = text.trim();
    this.changed.emit({ texts: Object.fromEntries(typed ? [...others, [masterId, typed]] : others) });
  }
}
