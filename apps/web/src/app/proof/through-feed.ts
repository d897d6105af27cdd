import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import {
  betterForFeed,
  feedInWords,
  houseFindings,
  leastLost,
  makingOf,
  Once,
  outcomeInWords,
  type Preset,
  varied,
  partPreset,
  variedInWords,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { Store } from '@ngrx/store';
import { catchError, of } from 'rxjs';
import { Api } from '../api/api';
import { WeightPipe } from '../look/figures';
import { fileKey, matchOf, SAME_DATA } from '../look/asked';
import { SelectName } from '../look/select-name';
import { HouseRemedies } from '../set/house-remedies';
import { AdoptBar } from './adopt-bar';
import { runsFeature } from '../runs/runs.store';
import { FeedSource, type FeedWish } from './feed-source';
import { FeedStage } from './feed-stage';
import { ProofChoice } from './proof-choice';

/** A file that can be sent. */
interface Sendable {
  key: string;
  name: string;
  preset: Preset;
  /** What of the preset would have to be another; null: it is one of its own. */
  values: Once | null;
}

/** Other presets that are sent beside the one that is judged. */
const OTHERS = 3;

/** What a feed makes of the outputs: several settings are sent to a stand-in, and what it shows is held against what was sent. */
@Component({
  selector: 'rd-through-feed',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzSelectModule, AdoptBar, FeedStage, HouseRemedies, SelectName, WeightPipe],
  providers: [FeedSource],
  templateUrl: './through-feed.html',
  styleUrls: ['./proof-tools.less', './through-feed.less'],
})
export class ThroughFeed {
  protected readonly choice = inject(ProofChoice);
  private readonly source = inject(FeedSource);
  private readonly api = inject(Api);
  private readonly openRuns = inject(Store).selectSignal(runsFeature.selectOpen);

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
        name: `“${title}” at ${variedInWords(values).join(', ')}`,
        preset: varied(preset, values),
        values,
      })),
      ...(before
        ? [
            {
              key: `version ${before.version}`,
              name: `Version ${before.version} of it`,
              preset: partPreset(before.preset, this.choice.part()),
              values: null,
            },
          ]
        : []),
      ...others.slice(0, OTHERS).map((one) => ({
        key: one.id,
        name: `“${one.preset.title}”`,
        preset: partPreset(varied(one.preset, set?.once[one.id]), ''),
        values: null,
      })),
    ];
  });
  /** What decides about the trips: another one sends them again. */
  private readonly wish = computed((): FeedWish | null => {
    const [feed, master] = [this.feed(), this.choice.master()];
    const presets = this.sendables().map(({ key, preset }) => ({ key, preset }));
    if (!feed || !master || !presets.length) return null;
    const decided = JSON.stringify(master.overrides);
    const files = presets.map(({ preset }) => fileKey({ masterId: master.id, preset, decided }));
    return { what: JSON.stringify([feed, files]), masterId: master.id, decided, feed: feed.id, presets };
  }, SAME_DATA);
  private readonly wishKey = computed(() => this.wish()?.what ?? '');
  protected readonly rows = computed(() =>
    this.sendables().map((one) => {
      const state = this.source.trips().get(one.key);
      const isWanted = matchOf(state?.asked, { what: this.wishKey(), where: one.key }) === 'wanted';
      const { trip, problem } = (isWanted && state) || { trip: null, problem: null };
      return {
        ...one,
        trip,
        problem,
        outcome: trip && outcomeInWords(trip),
      };
    }),
  );
  /** The row of those that have all come back on which least is lost. */
  private readonly best = computed(() => {
    const rows = this.rows();
    const back = rows.flatMap(({ key, trip }) => (trip ? [{ ...trip, key }] : []));
    return rows.some(({ trip, problem }) => !trip && !problem) ? null : (leastLost(back)?.key ?? null);
  });
  private readonly pickedByHand = linkedSignal<string, string | null>({ source: this.wishKey, computation: () => null });
  /** What is picked by hand; else the best, once it is known. */
  protected readonly picked = computed(() => {
    const wanted = this.pickedByHand() ?? this.best();
    return this.rows().find(({ key }) => key === wanted) ?? this.rows()[0] ?? null;
  });
  /** Which of those that have come back loses least, and what the worst of them loses. */
  protected readonly verdict = computed(() => {
    const best = this.rows().find(({ key }) => key === this.best());
    if (!best) return '';
    const [now] = this.rows();
    const other = now?.trip && now !== best ? ` ${now.name}: the feed ${now.outcome}.` : '';
    return `Least is lost of ${best.name}: the feed ${best.outcome}.${other}`;
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
    return { title: stored.rules.title, broken: broken.map(({ message }) => message), codes: broken.map(({ code }) => code) };
  });
  /** A run takes all there is of the machine's time. */
  protected readonly waits = computed(() => this.openRuns().some(({ counts }) => counts.working > 0));
  protected readonly says = computed(() => {
    const picked = this.picked();
    return picked?.values ? variedInWords(picked.values).join(', ') : '';
  });

  constructor() {
    effect(() => {
      const wish = this.wish();
      if (wish) untracked(() => this.source.want(wish));
    });
  }

  protected chooseFeed(id: string): void {
    this.choice.said.set('');
    this.feedAsked.set(id);
  }

  protected pick(key: string): void {
    this.choice.said.set('');
    this.pickedByHand.set(key);
  }
}
