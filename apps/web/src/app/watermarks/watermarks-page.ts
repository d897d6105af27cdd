import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { HttpClient } from '@angular/common/http';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { addressOf, MARK_EDGES, type NewWatermark, type StoredWatermark, TYPEFACES } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { debounceTime, Subject, switchMap, catchError, of } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';
import { readLogo } from './read-logo';

/** How long typing has to rest before the preview is drawn again, in ms. */
const REST = 200;

/** Watermarks: lines of text and logos, shown as they are on a bright, a dark and a busy picture; presets name them. */
@Component({
  selector: 'rd-watermarks-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, RouterLink, NzButtonModule, NzInputModule],
  templateUrl: './watermarks-page.html',
  styleUrl: './watermarks-page.less',
})
export class WatermarksPage {
  private readonly api = inject(Api);
  private readonly http = inject(HttpClient);
  private readonly store = inject(Store);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  protected readonly list = signal<readonly StoredWatermark[] | null>(null);
  protected readonly marks = computed(() =>
    (this.list() ?? []).map((mark) => ({
      ...mark,
      usedBy: this.presets()
        .filter(({ preset }) => preset.mark?.watermark === mark.id)
        .map(({ preset }) => preset.title),
    })),
  );
  /** The one that is asked about before it goes. */
  protected readonly leaving = signal<string | null>(null);

  protected readonly typefaces = TYPEFACES;
  protected readonly edges = MARK_EDGES;
  protected readonly faceNames = { sans: 'Sans', serif: 'Serif', mono: 'Monospaced' } as const;
  protected readonly edgeNames = { none: 'No edge', outline: 'Outline', shadow: 'Soft shadow' } as const;

  /** What is being made. */
  protected readonly kind = signal<'text' | 'logo'>('text');
  protected readonly text = signal('');
  protected readonly colour = signal('#ffffff');
  protected readonly typeface = signal<(typeof TYPEFACES)[number]>('sans');
  protected readonly edge = signal<(typeof MARK_EDGES)[number]>('none');
  protected readonly adapt = signal(false);
  protected readonly logo = signal<{ name: string; kind: 'png' | 'svg'; data: string } | null>(null);
  protected readonly dark = signal<{ name: string; kind: 'png' | 'svg'; data: string } | null>(null);
  /** Why the last logo was not taken. */
  protected readonly refused = signal<string | null>(null);

  protected readonly wanted = computed((): NewWatermark | null => {
    const [text, logo] = [this.text().trim(), this.logo()];
    if (this.kind() === 'logo')
      return logo ? { kind: logo.kind, title: logo.name.slice(0, 120), data: logo.data, dark: this.dark()?.data ?? null } : null;
    if (!text) return null;
    return { kind: 'text', title: text, text, colour: this.colour(), typeface: this.typeface(), edge: this.edge(), adapt: this.adapt() };
  });
  protected readonly preview = signal<string | null>(null);
  /** Why there is no preview. */
  protected readonly undrawn = signal<string | null>(null);
  private readonly tries = new Subject<NewWatermark | null>();

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    listOf('watermarks')
      .pipe(switchMap(() => this.api.listWatermarks()))
      .subscribe({
        next: (list) => this.list.set(list),
        error: (error: unknown) => this.tell('The watermarks could not be loaded', error),
      });
    effect(() => this.tries.next(this.wanted()));
    const drawn = this.tries
      .pipe(
        debounceTime(REST),
        switchMap((body) =>
          body
            ? this.http
                .post(addressOf('tryWatermark', {}), body, { responseType: 'blob' })
                .pipe(catchError((error: unknown) => this.notDrawn(error)))
            : of(null),
        ),
      )
      .subscribe((picture) => this.show(picture));
    inject(DestroyRef).onDestroy(() => {
      drawn.unsubscribe();
      this.show(null);
    });
  }

  protected pictureOf({ id }: StoredWatermark): string {
    return addressOf('showWatermark', { watermarkId: id });
  }

  protected async take(field: HTMLInputElement, which: 'logo' | 'dark'): Promise<void> {
    const file = field.files?.[0];
    field.value = '';
    if (!file) return;
    const read = await readLogo(file);
    this.refused.set(read.ok ? null : read.sentence);
    if (!read.ok) return;
    if (which === 'dark' && this.logo() && read.logo.kind !== this.logo()!.kind)
      return this.refused.set('Both variants have to be of one type: two PNG or two SVG.');
    this[which].set(read.logo);
  }

  protected add(): void {
    const body = this.wanted();
    if (!body) return;
    this.api.createWatermark({ body }).subscribe({
      next: () => {
        this.text.set('');
        this.logo.set(null);
        this.dark.set(null);
      },
      error: (error: unknown) => this.tell('The watermark was not added', error),
    });
  }

  protected remove({ id }: StoredWatermark): void {
    this.leaving.set(null);
    this.api.deleteWatermark({ watermarkId: id }).subscribe({
      error: (error: unknown) => this.tell('The watermark was not deleted', error),
    });
  }

  private async notDrawn(error: unknown): Promise<null> {
    const blob = (error as { error?: unknown }).error;
    const said: unknown = blob instanceof Blob ? JSON.parse(await blob.text().catch(() => 'null')) : null;
    this.undrawn.set(said !== null && typeof said === 'object' && 'detail' in said ? String(said.detail) : sentenceOf(error));
    return null;
  }

  private show(picture: Blob | null): void {
    const before = this.preview();
    this.preview.set(picture && URL.createObjectURL(picture));
    if (picture || !this.wanted()) this.undrawn.set(null);
    if (before) URL.revokeObjectURL(before);
  }

  private tell(what: string, error: unknown): void {
    this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
  }
}
