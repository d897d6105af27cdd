import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { PAPER_NAMES, PAPERS, placedIn, type SheetLook } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import type { Subscription } from 'rxjs';
import { sentenceOf } from '../api/problem-of';
import { SheetApi } from '../api/sheet';
import { handOverActions } from '../hand-over/hand-over.store';
import { saveBlob } from '../library/save-file';
import { CountedPipe, weight } from '../look/figures';
import { SelectName } from '../look/select-name';
import { takesKeys } from '../look/takes-keys';
import { TurnButtons } from '../look/turn-buttons';
import { presetsActions } from '../presets/presets.store';
import { SheetChoice, type SheetEntry } from './sheet-choice';

/** Height of the page that is seen beforehand, CSS px; a wide one is as wide at most. */
const SEEN = { width: 820, height: 500 };

/** A sheet of prints: pictures of the set in rows on paper, as a PDF; seen as it will be while it is set. */
@Component({
  selector: 'rd-sheet-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzSelectModule, NzSkeletonModule, CountedPipe, SelectName, TurnButtons],
  providers: [SheetChoice],
  host: { '(document:keydown)': 'onKey($event)' },
  templateUrl: './sheet-page.html',
  styleUrl: './sheet-page.less',
})
export class SheetPage {
  /** Of the address: which files, and the page that it was opened from. */
  readonly of = input<string>();
  readonly from = input<string>();
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly api = inject(SheetApi);
  protected readonly choice = inject(SheetChoice);
  protected readonly papers = PAPER_NAMES.map((name) => ({ name, label: PAPERS[name].label }));
  protected readonly keys = ['Page up', 'page down'] as const;

  protected readonly pages = computed(() => {
    const [entries, layout] = [this.choice.entries(), this.choice.layout()];
    return entries && layout.ok ? Math.max(1, Math.ceil(entries.length / layout.value.perPage)) : 1;
  });
  protected readonly page = linkedSignal({
    source: this.pages,
    computation: (pages: number, before?: { value: number }) => Math.min(pages - 1, before?.value ?? 0),
  });
  /** The page that is seen, in CSS px; null: it is not known yet, or there is no room for pictures. */
  protected readonly seen = computed(() => {
    const [entries, layout] = [this.choice.entries(), this.choice.layout()];
    if (!entries || !layout.ok) return null;
    const { page, cells, head, foot, perPage } = layout.value;
    const scale = Math.min(SEEN.width / page.width, SEEN.height / page.height);
    const scaled = ({ left, top, width, height }: { left: number; top: number; width: number; height: number }) => ({
      left: left * scale,
      top: top * scale,
      width: width * scale,
      height: height * scale,
    });
    return {
      scale,
      width: page.width * scale,
      height: page.height * scale,
      head: head && { ...scaled(head), words: this.choice.wholeLook().title },
      foot: foot && { ...scaled(foot), words: `${this.page() + 1} of ${this.pages()}` },
      cells: entries.slice(this.page() * perPage, (this.page() + 1) * perPage).map((entry, at) => ({
        ...entry,
        picture: scaled(placedIn(cells[at]!.picture, entry)),
        shown: shownAs(entry, placedIn(cells[at]!.picture, entry).width * scale),
        text: scaled(cells[at]!.text),
      })),
    };
  });

  private making: Subscription | null = null;
  /** How much of the document has come, bytes; null: none is being made. */
  protected readonly bytes = signal<number | null>(null);
  protected readonly said = signal('');
  protected readonly isWrong = signal(false);
  protected readonly madeWords = computed(() => {
    const bytes = this.bytes();
    return bytes === null ? '' : bytes ? `Being made: ${weight(bytes)} so far …` : 'Being made …';
  });
  protected readonly back = computed(() => (this.from() === 'hand-over' ? 'Back to Hand over' : 'Back to Gather'));

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    this.store.dispatch(handOverActions.lookedAt());
    effect(() => this.choice.columnAsked.set(this.of() ?? ''));
    inject(DestroyRef).onDestroy(() => this.making?.unsubscribe());
  }

  protected change(values: Partial<SheetLook>): void {
    this.choice.change(values);
  }

  /** A number that is typed; what cannot be becomes the nearest that can, in the field, too. */
  protected number(field: 'columns' | 'rows' | 'margin', typed: HTMLInputElement): void {
    const value = Number.isFinite(typed.valueAsNumber) ? typed.valueAsNumber : this.choice.wholeLook()[field];
    const near = Math.min(Number(typed.max), Math.max(Number(typed.min), field === 'margin' ? value : Math.round(value)));
    typed.value = String(near);
    this.change({ [field]: near });
  }

  protected choose(column: string): void {
    void this.router.navigate([], { queryParams: { of: column || null }, queryParamsHandling: 'merge', replaceUrl: true });
  }

  protected turn(by: 1 | -1): void {
    this.page.update((page) => Math.min(this.pages() - 1, Math.max(0, page + by)));
  }

  protected onKey(event: KeyboardEvent): void {
    if (takesKeys(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'Escape') return this.leave();
    const by = event.key === 'PageUp' ? -1 : event.key === 'PageDown' ? 1 : null;
    if (by === null) return;
    event.preventDefault();
    this.turn(by);
  }

  protected leave(): void {
    void this.router.navigate(['/sets', this.choice.set()?.id, this.from() === 'hand-over' ? 'hand-over' : 'gather']);
  }

  protected make(): void {
    const set = this.choice.set();
    if (!set || this.bytes() !== null) return;
    this.bytes.set(0);
    this.said.set('');
    this.isWrong.set(false);
    const wish = this.choice.wish();
    this.making = this.api.make(set.id, wish).subscribe({
      next: ({ bytes, pdf }) => {
        this.bytes.set(pdf ? null : bytes);
        if (!pdf) return;
        saveBlob(`${wish.look.title || set.title}.pdf`, pdf);
        this.said.set(`Saved: ${weight(pdf.size)}.`);
      },
      error: (error: unknown) => {
        this.bytes.set(null);
        this.isWrong.set(true);
        this.said.set(sentenceOf(error));
      },
    });
  }

  protected cancel(): void {
    this.making?.unsubscribe();
    this.bytes.set(null);
  }
}

/** The small picture of an entry behind the window that its crop leaves, CSS px. @param width of that window */
function shownAs({ width: own, height, matrix }: SheetEntry, width: number): { width: number; height: number; transform: string | null } {
  const scale = width / own;
  if (!matrix) return { width, height: height * scale, transform: null };
  const { of, turned, moved } = matrix;
  const transform = `matrix(${[...turned, moved[0] * scale, moved[1] * scale].join(', ')})`;
  return { width: of.width * scale, height: of.height * scale, transform };
}
