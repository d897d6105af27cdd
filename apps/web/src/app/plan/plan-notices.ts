import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { RouterLink } from '@angular/router';
import {
  counted,
  earlierSentence,
  makingOf,
  missingInWords,
  partPreset,
  ratioName,
  type SetChange,
  type StoredPreset,
  withNameParts,
  withoutClash,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { setActions, setFeature } from '../set/set.store';
import { CountedPipe } from '../look/figures';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { planFeature } from './plan.store';

/** What is said once of a whole plan: what becomes of earlier files, with a way to keep them; what an earlier engine made, with one to make it again. */
@Component({
  selector: 'rd-plan-notices',
  imports: [CountedPipe, NzButtonModule, RouterLink],
  template: `
    @if (earlierWords(); as words) {
      <div>
        <details>
          <summary>{{ words }}</summary>
          <ul>
            @for (line of names(); track line) {
              <li>{{ line }}</li>
            }
          </ul>
        </details>
        <button nz-button nzType="link" nzSize="small" (click)="change({ keepsEarlier: !keeps() })">
          {{ keeps() ? 'Let them give way' : 'Keep them' }}
        </button>
      </div>
    }
    @if (asksAboutCopies()) {
      <p>
        {{ copyWords() }}
        <button nz-button nzType="link" nzSize="small" (click)="change({ copies: 'go' })">Take them away</button>
        <button nz-button nzType="link" nzSize="small" (click)="change({ copies: 'stay' })">Leave them</button>
      </p>
    }
    @for (one of alike(); track one.id) {
      <p>
        “{{ one.preset.title }}” makes several files of each picture, and their names do not tell them apart.
        <button nz-button nzType="link" nzSize="small" (click)="mend(one)">Add {{ missing(one.preset) }} to the name</button>
      </p>
    }
    @for (one of clashes(); track one.presetId) {
      <p>
        “{{ one.title }}” gives {{ one.outputs | counted: 'file' }} the name of another file. The run would put a number behind
        {{ one.outputs === 1 ? 'it' : 'them' }}: {{ one.fileName }}.
        @if (one.mended; as mended) {
          <button nz-button nzType="link" nzSize="small" (click)="save(mended)">
            Add {{ one.by === 'counter' ? 'a counter' : 'the preset’s name' }} to the name
          </button>
        }
      </p>
    }
    @for (one of proposals(); track one.ratio) {
      <p>
        {{ one.count | counted: 'crop' }} to {{ one.ratio }} proposed.
        <a nz-button nzType="link" nzSize="small" routerLink="../crop" [queryParams]="{ ratio: one.ratio, all: '', from: 'plan' }"
          >Look at {{ one.count === 1 ? 'it' : 'them' }}</a
        >
      </p>
    }
    @if (unseen(); as count) {
      <p>{{ count | counted: 'picture' }} still being analysed, to propose how {{ count === 1 ? 'it is' : 'they are' }} cropped.</p>
    }
    @for (notice of notices(); track notice.message) {
      <p>
        {{ notice.message }}
        @if (notice.code === 'engine-offer') {
          <button nz-button nzType="link" nzSize="small" (click)="change({ remake: true })">Make them again</button>
        } @else if (notice.code === 'earlier-engine' && isRemade()) {
          <button nz-button nzType="link" nzSize="small" (click)="change({ remake: false })">Leave them</button>
        }
      </p>
    }
  `,
  styles: `
    summary {
      cursor: pointer;
    }
    ul {
      overflow-y: auto;
      max-height: 160px;
      margin: 4px 0;
      padding-left: 20px;
    }
    div {
      display: flex;
      align-items: start;
    }
    summary {
      line-height: 24px;
    }
    p,
    div {
      margin-bottom: 10px;
      padding: 6px 14px;
      font-size: 13px;
      background: var(--petrol-wash);
      border-left: 4px solid var(--petrol);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PlanNotices {
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly notices = this.store.selectSignal(planFeature.selectNotices);
  protected readonly isRemade = computed(() => this.set()?.remake ?? false);

  private readonly cells = this.store.selectSignal(planFeature.selectPlanned);
  protected readonly unseen = this.store.selectSignal(planFeature.selectUnseen);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);
  /** Crops that nobody has looked at, by their ratio. What has been decided since the plan was made is no proposal any more. */
  protected readonly proposals = computed(() => {
    const masters = new Map(this.masters().map((master) => [master.id, master]));
    const presets = new Map(this.presets().map(({ id, preset }) => [id, preset]));
    const pictures = new Map<string, Set<string>>();
    for (const cell of Object.values(this.cells())) {
      const [master, preset] = [masters.get(cell.masterId), presets.get(cell.presetId)];
      if (cell.status !== 'planned' || !master?.facts || !preset?.size.ratio) continue;
      if (makingOf(master.facts, partPreset(preset, cell.part), cell.presetId, master.overrides).cutBy !== 'proposed') continue;
      const ratio = ratioName(preset.size.ratio);
      pictures.set(ratio, (pictures.get(ratio) ?? new Set()).add(cell.masterId));
    }
    return [...pictures].map(([ratio, { size }]) => ({ ratio, count: size }));
  });

  private readonly chosen = this.store.selectSignal(setFeature.selectPresetIds);
  /** Presets whose files of one picture would have one name. */
  protected readonly alike = computed(() => this.presets().filter(({ id, preset }) => this.chosen().includes(id) && this.missing(preset)));
  protected readonly missing = missingInWords;

  private readonly nameClashes = this.store.selectSignal(planFeature.selectClashes);
  protected readonly clashes = computed(() =>
    this.nameClashes().flatMap((clash) => {
      const stored = this.presets().find(({ id }) => id === clash.presetId);
      if (!stored) return [];
      const preset = withoutClash(stored.preset, clash.by);
      return [{ ...clash, title: stored.preset.title, mended: preset && { ...stored, preset } }];
    }),
  );

  protected mend(stored: StoredPreset): void {
    this.save({ ...stored, preset: withNameParts(stored.preset) });
  }

  protected save({ id, preset, version }: StoredPreset): void {
    this.store.dispatch(presetsActions.savePressed({ id, preset, version }));
  }

  protected readonly earlier = this.store.selectSignal(planFeature.selectEarlier);
  protected readonly keeps = computed(() => this.set()?.keepsEarlier ?? false);
  private readonly copies = computed(() => this.set()?.copies);
  protected readonly earlierWords = computed(() => earlierSentence(this.earlier(), this.keeps() ? 'keep' : 'go', this.copies() === 'go'));
  protected readonly names = computed(() => {
    const keeps = this.keeps();
    return this.earlier().names.map(({ from, to }) => (keeps ? from : to === null ? `${from} goes` : `${from} → ${to}`));
  });
  protected readonly asksAboutCopies = computed(() => this.copies() === null && this.earlier().copies > 0);
  protected readonly copyWords = computed(() => {
    const { copies } = this.earlier();
    return `${counted(copies, 'older file')} ${copies === 1 ? 'lies' : 'lie'} beside ${copies === 1 ? 'its newer self' : 'their newer selves'}, under another name.`;
  });

  protected change(change: SetChange): void {
    const setId = this.set()?.id;
    if (setId) this.store.dispatch(setActions.changedByHand({ setId, change }));
  }
}
