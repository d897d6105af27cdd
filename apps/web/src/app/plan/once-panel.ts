import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { isVaried, Once, type StoredPreset, variable, varied, variedInWords } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { setFeature } from '../set/set.store';
import { VaryPreset } from '../set/vary-preset';

/** Varies a preset for this set: until it is cleared, or saved as the preset's next version. */
@Component({
  selector: 'rd-once-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule],
  template: `
    <form [attr.aria-label]="'This once: ' + stored().preset.title" (ngSubmit)="keep()" (keydown.escape)="closed.emit()">
      <strong>This once, “{{ stored().preset.title }}”</strong>
      @if (can().includes('px')) {
        <label
          >{{ edgeName() }}
          <input type="number" name="px" min="1" max="65500" [placeholder]="stored().preset.size.px" [(ngModel)]="px" /> px</label
        >
      }
      @if (can().includes('quality')) {
        <label
          >Quality <input type="number" name="quality" min="1" max="100" [placeholder]="stored().preset.file.quality" [(ngModel)]="quality"
        /></label>
      }
      <label>Folder <input type="text" name="folder" [placeholder]="stored().preset.folder || 'none'" [(ngModel)]="folder" /></label>
      @if (alsoVaried(); as words) {
        <span class="soft">{{ words }}</span>
      }
      <span class="buttons">
        <button nz-button nzSize="small" nzType="primary" type="submit">For this set</button>
        @if (is()) {
          <button nz-button nzSize="small" type="button" (click)="save()">Save as version {{ stored().version + 1 }}</button>
          <button nz-button nzSize="small" type="button" (click)="clear()">Clear</button>
        }
        <button nz-button nzSize="small" nzType="text" type="button" (click)="closed.emit()">Close</button>
      </span>
      @if (wrong(); as sentence) {
        <p class="problem" role="alert">{{ sentence }}</p>
      }
    </form>
  `,
  styles: `
    form {
      display: flex;
      flex-wrap: wrap;
      gap: 8px 18px;
      align-items: center;
      margin-bottom: 8px;
      padding: 8px 14px;
      background: var(--sheet);
      border: 1px solid var(--petrol);
      border-radius: var(--radius);
    }
    strong {
      font-weight: 600;
    }
    label {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    input {
      width: 84px;
      height: 28px;
      padding: 0 6px;
      font: inherit;
      text-align: right;
      background: var(--paper);
      border: 1px solid var(--line-strong);
      border-radius: var(--radius);
      &[type='text'] {
        width: 150px;
        text-align: left;
      }
    }
    .buttons {
      display: flex;
      gap: 8px;
    }
    .problem {
      color: var(--brick);
    }
  `,
})
export class OncePanel {
  readonly stored = input.required<StoredPreset>();
  readonly closed = output();
  private readonly store = inject(Store);
  private readonly vary = inject(VaryPreset);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  /** Other news of the set leave what is being typed alone. */
  private readonly now = computed((): Once => this.set()?.once[this.stored().id] ?? {}, {
    equal: (a, b) => JSON.stringify(a) === JSON.stringify(b),
  });
  protected readonly can = computed(() => variable(this.stored().preset));
  protected readonly is = computed(() => isVaried(this.now()));
  protected readonly px = linkedSignal<number | null>(() => this.now().px ?? null);
  protected readonly quality = linkedSignal<number | null>(() => this.now().quality ?? null);
  protected readonly folder = linkedSignal(() => this.now().folder ?? '');
  /** Varied in Proof: it stays as it is here. */
  private readonly fromProof = computed((): Once =>
    Once.parse(Object.fromEntries(Object.entries(this.now()).filter(([name]) => !['px', 'quality', 'folder'].includes(name)))),
  );
  protected readonly alsoVaried = computed(() => variedInWords(this.fromProof()).join(', '));
  protected readonly wrong = linkedSignal<Once, string | null>({ source: this.now, computation: () => null });
  protected readonly edgeName = computed(
    () =>
      ({ 'long-edge': 'Long edge', 'short-edge': 'Short edge', width: 'Width', height: 'Height' })[
        this.stored().preset.size.fit as 'width'
      ],
  );

  protected keep(): void {
    const once = this.typed();
    if (once) this.change(once);
  }

  protected clear(): void {
    this.change({});
  }

  /** Makes the variation the preset's own; what was varied is then no variation any more. */
  protected save(): void {
    const once = this.typed();
    if (!once) return;
    const stored = this.stored();
    this.vary.save(stored, varied(stored.preset, once)).subscribe(() => this.change({}));
  }

  private typed(): Once | null {
    const [px, quality, folder] = [this.px(), this.quality(), this.folder().trim()];
    const parsed = Once.safeParse({
      ...this.fromProof(),
      ...(px === null ? {} : { px }),
      ...(quality === null ? {} : { quality }),
      ...(folder ? { folder } : {}),
    });
    if (parsed.success) return parsed.data;
    const [issue] = parsed.error.issues;
    const names = { px: this.edgeName(), quality: 'Quality', folder: 'Folder' };
    this.wrong.set(`${names[issue?.path[0] as keyof typeof names]}: ${issue?.message}.`);
    return null;
  }

  private change(once: Once): void {
    const set = this.set();
    if (!set) return;
    this.vary.once(set, this.stored().id, once);
    this.closed.emit();
  }
}
