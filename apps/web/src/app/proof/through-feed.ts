import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import {
  betterForFeed,
  differenceOf,
  feedInWords,
  houseFindings,
  leastLost,
  makingOf,
  Once,
  outcomeInWords,
  type Preset,
  type TileValues,
  varied,
  variedInWords,
  withValues,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { catchError, of } from 'rxjs';
import { Api } from '../api/api';
import { WeightPipe } from '../look/figures';
import { SelectName } from '../look/select-name';
import { AdoptBar } from './adopt-bar';
import { FeedSource } from './feed-source';
import { FeedStage } from './feed-stage';
import { ProofChoice } from './proof-choice';

/** A file that can be sent. */
interface Sendable {
  key: string;
  name: string;
  preset: Preset;
  /** What of the preset would have to be another; null: it is one of its own. */
  values: TileValues | null;
}

/** Other presets that are sent beside the one that is judged. */
const OTHERS = 3;

/** What a feed makes of the outputs: several settings are sent to a stand-in, and what it shows is held against what was sent. */
@Component({
  selector: 'rd-through-feed',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzSelectModule, AdoptBar, FeedStage, SelectName, WeightPipe],
  providers: [FeedSource],
  templateUrl: './through-feed.html',
  styleUrls: ['./proof-tools.less', './through-feed.less'],
})
export class ThroughFeed {
  protected readonly choice = inject(ProofChoice);
  private readonly source = inject(FeedSource);
  private readonly api = inject(Api);

  protected readonly offered = rxResource({
    stream: () => this.api.listFeeds().pipe(catchError(() => of({ address: null, why: 'The server does not answer.', feeds: [] }))),
  });
  private readonly feedAsked = signal('');
  protected readonly feeds = computed(() => (this.offered.hasValue() ? this.offered.value().feeds : []));
  protected readonly feed = computed(() => this.feeds().find(({ id }) => id === this.feedAsked()) ?? this.feeds()[0] ?? null);
  protected readonly feedWords = computed(() => {
    const feed = this.feed();
    return feed ? feedInWords(feed) : '';
  });

  /** The preset as it is, with what a feed takes better, as it was before, and the others of the set. */
  protected readonly sendables = computed((): Sendable[] => {
    const [stored, preset, master, feed, set] = [
      this.choice.stored(),
      this.choice.preset(),
      this.choice.master(),
      this.feed(),
      this.choice.set(),
    ];
    if (!stored || !preset || !master?.facts || !feed) return [];
    const { title } = stored.preset;
    const better = betterForFeed(preset, feed, makingOf(master.facts, preset, stored.id, master.overrides).geometry.output);
    const [before] = this.choice.earlier();
    const others = this.choice.chosen().filter(({ id }) => id !== stored.id);
    return [
      { key: 'now', name: `“${title}” as it is`, preset, values: null },
      ...better.map((values) => ({
        key: JSON.stringify(values),
        name: `“${title}” at ${variedInWords(Once.parse(values)).join(', ')}`,
        preset: withValues(preset, values),
        values,
      })),
      ...(before
        ? [{ key: `version ${before.version}`, name: `Version ${before.version} of it`, preset: before.preset, values: null }]
        : []),
      ...others.slice(0, OTHERS).map((one) => ({
        key: one.id,
        name: `“${one.preset.title}”`,
        preset: varied(one.preset, set?.once[one.id]),
        values: null,
      })),
    ];
  });
  /** What decides about the trips: another one sends them again. */
  private readonly wishKey = computed(() => {
    const [feed, master] = [this.feed(), this.choice.master()];
    const presets = this.sendables().map(({ key, preset }) => ({ key, preset }));
    return feed && master && presets.length
      ? JSON.stringify([feed, master.overrides, { masterId: master.id, feed: feed.id, presets }])
      : '';
  });
  protected readonly rows = computed(() =>
    this.sendables().map((one) => {
      const { trip = null, problem = null } = this.source.trips().get(one.key) ?? {};
      return {
        ...one,
        trip,
        problem,
        outcome: trip && outcomeInWords(trip),
        difference: trip && differenceOf(trip.difference),
      };
    }),
  );
  protected readonly pickedKey = linkedSignal<string, string>({ source: this.wishKey, computation: () => 'now' });
  protected readonly picked = computed(() => this.rows().find(({ key }) => key === this.pickedKey()) ?? this.rows()[0] ?? null);
  /** Which of those that have come back loses least, and what the worst of them loses. */
  protected readonly verdict = computed(() => {
    const back = this.rows().flatMap(({ name, trip, outcome }) => (trip ? [{ ...trip, name, outcome }] : []));
    const [best, feed] = [leastLost(back), this.feed()];
    if (!best || !feed || this.rows().some(({ trip, problem }) => !trip && !problem)) return '';
    const now = back.find(({ name }) => name === this.sendables()[0]?.name);
    const other = now && now !== best ? ` ${now.name} ${now.outcome}, ${differenceOf(now.difference)}.` : '';
    return `Least is lost of ${best.name}: it ${best.outcome}, the difference is ${differenceOf(best.difference)}.${other}`;
  });
  protected readonly lost = computed(() => {
    const lost = this.picked()?.trip?.lost ?? [];
    return lost.length ? `Thrown away: ${lost.join(' and ')}.` : '';
  });

  private readonly allRules = rxResource({ stream: () => this.api.listHouseRules().pipe(catchError(() => of([]))) });
  /** What the receiver of the set demands, and whether the picked file keeps it. */
  protected readonly house = computed(() => {
    const id = this.choice.set()?.houseRulesId;
    const stored = this.allRules.hasValue() ? this.allRules.value().find((one) => one.id === id) : undefined;
    const picked = this.picked();
    if (!stored || !picked?.trip) return null;
    const { sent } = picked.trip;
    const broken = houseFindings(stored.rules, sent, { bytes: sent.bytes, expected: false }, picked.preset);
    return { title: stored.rules.title, broken: broken.map(({ message }) => message) };
  });
  protected readonly says = computed(() => {
    const picked = this.picked();
    return picked?.values ? variedInWords(Once.parse(picked.values)).join(', ') : '';
  });

  constructor() {
    effect(() => {
      const key = this.wishKey();
      if (!key) return;
      const [, , wish] = JSON.parse(key) as [unknown, unknown, Parameters<FeedSource['want']>[0]];
      untracked(() => this.source.want(wish));
    });
  }

  protected chooseFeed(id: string): void {
    this.choice.said.set('');
    this.feedAsked.set(id);
  }

  protected pick(key: string): void {
    this.choice.said.set('');
    this.pickedKey.set(key);
  }
}
