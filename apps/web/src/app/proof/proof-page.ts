import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isVaried, presetInShort, variedInWords } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { thumbnailUrl } from '../api/api';
import { AwaitedPicture } from '../look/awaited-picture';
import { SelectName } from '../look/select-name';
import { takesKeys } from '../look/takes-keys';
import { TurnButtons } from '../look/turn-buttons';
import { presetsActions, presetsFeature } from '../presets/presets.store';
import { PictureTone } from '../tone/picture-tone';
import { ByWeight } from './by-weight';
import { LookClosely } from './look-closely';
import { ProofChoice } from './proof-choice';
import { ProofCurves } from './proof-curves';
import { TestStrip } from './test-strip';
import { ThroughFeed } from './through-feed';

const WAYS = [
  { id: 'strip', name: 'Test strip' },
  { id: 'close', name: 'Look closely' },
  { id: 'curves', name: 'Curves' },
  { id: 'weight', name: 'By weight' },
  { id: 'feed', name: 'Through a feed' },
] as const;

/** Proof: what will come out is judged at 1:1, several ways side by side, and what is found good enough becomes the preset's value. */
@Component({
  selector: 'rd-proof-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    AwaitedPicture,
    FormsModule,
    RouterLink,
    NzButtonModule,
    NzSelectModule,
    NzSkeletonModule,
    PictureTone,
    SelectName,
    ByWeight,
    LookClosely,
    ProofCurves,
    TestStrip,
    ThroughFeed,
    TurnButtons,
  ],
  providers: [ProofChoice],
  host: { '(document:keydown)': 'key($event)' },
  templateUrl: './proof-page.html',
  styleUrl: './proof-page.less',
})
export class ProofPage {
  /** Of the address: what was looked at when the page was left, or is to be looked at. */
  readonly picture = input<string>();
  readonly preset = input<string>();
  readonly way = input<string>();
  protected readonly ways = WAYS;
  protected readonly pageKeys = ['Page up', 'Page down'] as const;
  protected readonly wayNow = computed(() => WAYS.find(({ id }) => id === this.way()) ?? WAYS[0]);
  protected readonly choice = inject(ProofChoice);
  private readonly router = inject(Router);
  private readonly store = inject(Store);
  protected readonly loaded = this.store.selectSignal(presetsFeature.selectLoaded);
  protected readonly thumbnail = thumbnailUrl;
  protected readonly sentence = computed(() => {
    const [stored, once] = [this.choice.stored(), this.choice.once()];
    if (!stored) return '';
    const short = presetInShort(stored.preset);
    return once && isVaried(once) ? `${short}; this once: ${variedInWords(once).join(', ')}` : short;
  });

  constructor() {
    this.store.dispatch(presetsActions.wanted());
    effect(() => {
      this.choice.pictureAsked.set(this.picture() ?? null);
      this.choice.presetAsked.set(this.preset() ?? null);
    });
    // The address follows, so that it can be kept and come back to.
    effect(() => {
      const [picture, preset] = [this.choice.pictureAsked(), this.choice.presetAsked()];
      if ((picture && picture !== this.picture()) || (preset && preset !== this.preset()))
        void this.router.navigate([], { queryParams: { picture, preset }, queryParamsHandling: 'merge', replaceUrl: true });
    });
  }

  protected go(way: string): void {
    this.choice.said.set('');
    void this.router.navigate([], { queryParams: { way }, queryParamsHandling: 'merge', replaceUrl: true });
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (takesKeys(event.target)) return;
    if (event.key === 'PageDown') this.choice.turn(1);
    else if (event.key === 'PageUp') this.choice.turn(-1);
    else return;
    event.preventDefault();
  }
}
