import { ApplicationRef, ChangeDetectionStrategy, Component, computed, DestroyRef, inject, input, output, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { fieldAt, type Master, PICTURE_TONE_FIELDS, PictureTone as Tone, rulesAt, stepTone } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { takesKeys } from '../look/takes-keys';
import { ViewChoices } from '../look/view-choices';
import { setActions, setFeature } from '../set/set.store';
import { toneEdit } from './tone-edit';

const NONE: Tone = Tone.parse({});

/** What a picture gets beside what the presets say: brighter or darker by a press or a key, and the other values of its tone. */
@Component({
  selector: 'rd-picture-tone',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzInputModule],
  host: { '(document:keydown)': 'key($event)' },
  template: `
    <button
      nz-button
      nzSize="small"
      type="button"
      class="own"
      title="Brighter: the key . (full stop); darker: the key , (comma)"
      [class.is]="own()"
      [attr.aria-expanded]="isOpen()"
      (click)="isOpen.set(!isOpen())"
      [textContent]="inShort()"
    ></button>
    @if (isOpen()) {
      <div class="values" role="group" aria-label="Tone of this picture" (keydown.escape)="close($event)">
        <p class="soft">Added to what every preset says, for this picture alone.</p>
        <div class="acts">
          <button nz-button nzSize="small" type="button" title="A sixth of a stop: the key , (comma)" (click)="step(-1)">Darker</button>
          <button nz-button nzSize="small" type="button" title="A sixth of a stop: the key . (full stop)" (click)="step(1)">
            Brighter
          </button>
        </div>
        @for (one of fields; track one.field) {
          <label [for]="'tone-' + one.field" [title]="one.help">{{ one.label }}</label>
          <input
            nz-input
            nzSize="small"
            type="number"
            [id]="'tone-' + one.field"
            [min]="one.min"
            [max]="one.max"
            [step]="one.step"
            [value]="valueOf(one)"
            (change)="set(one, $event)"
          />
          <span class="soft">{{ one.unit }}</span>
        }
        <div class="acts">
          <button nz-button nzSize="small" type="button" [disabled]="!own()" (click)="clear()">As the presets say</button>
          @if (others().length; as count) {
            <button nz-button nzSize="small" type="button" (click)="copy()">Copy to {{ count }} selected</button>
          }
          <button nz-button nzSize="small" nzType="text" type="button" (click)="isOpen.set(false)">Done</button>
        </div>
      </div>
    }
  `,
  styleUrl: './picture-tone.less',
})
export class PictureTone {
  readonly master = input.required<Master>();
  /** Something else was decided about its tone. */
  readonly decided = output();
  private readonly store = inject(Store);
  private readonly application = inject(ApplicationRef);
  private readonly itself = inject(DestroyRef);
  private readonly view = inject(ViewChoices);
  private readonly all = this.store.selectSignal(setFeature.selectMasters);
  private readonly selected = this.store.selectSignal(setFeature.selectSelectedMasters);
  protected readonly isOpen = signal(false);
  protected readonly fields = PICTURE_TONE_FIELDS.map((field) => {
    const { label, help, unit, scale, step } = fieldAt(`tone.${field}`)!;
    const { min, max } = rulesAt(`tone.${field}`);
    return { field, label, help, unit, scale, step, min: min * scale, max: max * scale };
  });

  protected readonly own = computed(() => this.master().overrides.tone);
  /** Those that are selected beside it. */
  protected readonly others = computed(() => this.selected().filter(({ id }) => id !== this.master().id));
  protected readonly inShort = computed(() => {
    const own = this.own();
    if (!own) return 'Tone';
    const said = PICTURE_TONE_FIELDS.flatMap((field) => (own[field] ? [fieldAt(`tone.${field}`)!.says(own[field])] : []));
    return own.exposure ? `Tone ${said[0]}${said.length > 1 ? ' …' : ''}` : 'Tone by hand';
  });

  protected valueOf({ field, scale }: (typeof this.fields)[number]): number {
    return Math.round((this.own() ?? NONE)[field] * scale * 100) / 100;
  }

  protected set(one: (typeof this.fields)[number], event: Event): void {
    const { field, scale, min, max } = one;
    const input = event.target as HTMLInputElement;
    const typed = input.valueAsNumber;
    // What is no number leaves it as it is; what cannot be becomes the nearest that can, in the field, too.
    const near = Number.isFinite(typed) ? Math.min(max, Math.max(min, typed)) : this.valueOf(one);
    input.value = String(near);
    const value = Math.round((near / scale) * 1000) / 1000;
    this.decide([this.master()], (before) => ({ ...(before ?? NONE), [field]: value }));
  }

  protected step(by: 1 | -1): void {
    this.decide([this.master()], (before) => stepTone(before, by), by === 1 ? 'brighter' : 'darker');
  }

  protected clear(): void {
    this.decide([this.master()], () => null);
  }

  protected copy(): void {
    const own = this.own();
    this.decide(this.others(), () => own);
  }

  protected close(event: Event): void {
    // The view around it would close, too: by its own keys, or as a dialog.
    event.stopPropagation();
    event.preventDefault();
    this.isOpen.set(false);
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || takesKeys(event.target) || !this.view.singleKeys()) return;
    if (event.key !== '.' && event.key !== ',') return;
    event.preventDefault();
    // The key before may have gone on to another picture, which a busy page has not been drawn with yet: it is meant.
    this.application.tick();
    if (!this.itself.destroyed) this.step(event.key === '.' ? 1 : -1);
  }

  private decide(masters: readonly Master[], toneOf: (before: Tone | null) => Tone | null, label = 'tone'): void {
    // As they are in the store: keys come faster than the page is drawn.
    const ids = new Set(masters.map(({ id }) => id));
    const edit = toneEdit(
      this.all().filter(({ id }) => ids.has(id)),
      label,
      toneOf,
    );
    if (!edit) return;
    this.store.dispatch(setActions.edited({ edit }));
    this.decided.emit();
  }
}
