import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { type DeliveryPreview, GALLERY_LANGUAGES, GALLERY_LAYOUTS, GALLERY_LOOKS, hasOwnWords, OTHER_LANGUAGES } from '@rundle/core';
import type { GalleryLayout, GalleryLook } from '@rundle/core';
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
  protected readonly covers = computed(() => {
    const { cover } = this.draft();
    const ids = new Set(this.selected().map(({ id }) => id));
    return this.masters().filter(({ id }) => id === cover || ids.has(id));
  });

  protected readonly languages = computed(() => {
    const names = new Intl.DisplayNames(['en'], { type: 'language' });
    const { language } = this.draft();
    const codes = new Set([...GALLERY_LANGUAGES, ...OTHER_LANGUAGES, language]);
    return [...codes]
      .map((code) => ({ code, name: `${names.of(code) ?? code}${hasOwnWords(code) ? '' : ', with English buttons'}` }))
      .sort((a, b) => a.name.localeCompare(b.name, 'en'));
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
