import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  linkedSignal,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import {
  AXES,
  axesOf,
  type AxisId,
  differenceOf,
  type Fault,
  faultsOf,
  type FileTypeName,
  type FoundPlace,
  type PlaceKind,
  stripOf,
  type Tile,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { weight } from '../look/figures';
import { matchOf, SAME_DATA } from '../look/asked';
import { SelectName } from '../look/select-name';
import { AdoptBar } from './adopt-bar';
import { PlaceInPicture } from './place-in-picture';
import { ProofChoice } from './proof-choice';
import { saveStrip } from './save-strip';
import { fileOf, placeOf, StripSource, type StripWish, type TileState, wantedOf } from './strip-source';

/** Least width of a tile's picture, and what it grows by where the screen has room, CSS px; and between two of them. */
const LEAST = 226;
const STEP = 8;
const GAP = 12;
/** Height to width of a tile's picture. */
const SHAPE = 160 / 226;

const ALIKE_WORDS: Partial<Record<Fault, string>> = {
  halos: 'Sharpening draws halos here, at every one of these.',
  clipping: 'Colours are out of gamut here, at every one of these.',
};
const FAULT_WORDS: Record<Fault, string> = {
  banding: 'bands',
  blocks: 'blocks',
  halos: 'halos',
  clipping: 'out of gamut',
};

/** Faults that are made before anything is encoded, and the settings that change them: beside other settings they are the same on every tile. */
const MADE_BEFORE: Partial<Record<Fault, readonly AxisId[]>> = { halos: ['amount', 'radius'], clipping: [] };

/** A tile as it is shown. */
interface ShownTile {
  tile: Tile;
  key: string;
  url: string | null;
  /** The picture is what is wanted, or there is none. */
  isThere: boolean;
  /** Of its file, bytes; null: not known yet. */
  bytes: number | null;
  weight: string;
  difference: string;
  faults: string[];
  /** Faults that it has in common with all of the strip. */
  alike: Fault[];
  /** The figures behind the words. */
  figures: string;
  problem: string | null;
  /** The picture may still differ a little from the file. */
  isExpected: boolean;
}

/** One place of a picture, made with several values of one or two settings side by side, each with what it weighs and how it differs. */
@Component({
  selector: 'rd-test-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzSelectModule, SelectName, AdoptBar, PlaceInPicture],
  providers: [StripSource],
  templateUrl: './test-strip.html',
  styleUrls: ['./proof-tools.less', './test-strip.less'],
})
export class TestStrip {
  protected readonly choice = inject(ProofChoice);
  private readonly source = inject(StripSource);
  private readonly list = viewChild<ElementRef<HTMLElement>>('list');
  /** Room for the tiles, CSS px. */
  private readonly room = signal(0);
  /** As many side by side as there is room for, and as wide as that lets them be. */
  protected readonly tileSize = computed(() => {
    const room = this.room();
    const across = Math.max(1, this.columns() || Math.floor((room + GAP) / (LEAST + GAP)));
    const most = Math.floor((room - 6 - GAP * (across - 1)) / across);
    const width = LEAST + STEP * Math.max(0, Math.floor((most - LEAST) / STEP));
    return { width, height: Math.round(width * SHAPE) };
  }, SAME_DATA);
  protected readonly axes = computed(() => {
    const preset = this.choice.preset();
    return preset ? axesOf(preset).map((id) => ({ id, label: AXES[id].label })) : [];
  });
  private readonly acrossAsked = signal<AxisId>('quality');
  protected readonly across = computed((): AxisId => {
    const ids = this.axes().map(({ id }) => id);
    return ids.includes(this.acrossAsked()) ? this.acrossAsked() : (ids[0] ?? 'quality');
  });
  private readonly downAsked = signal<AxisId | null>(null);
  protected readonly down = computed(() => {
    const down = this.downAsked();
    return down !== this.across() && this.axes().some(({ id }) => id === down) ? down : null;
  });

  protected readonly strip = computed(() => {
    const [preset, types] = [this.choice.preset(), this.choice.types()];
    if (!preset || !types) return null;
    return stripOf(preset, this.across(), this.down(), (id, value) => id !== 'type' || types.includes(value as FileTypeName));
  });
  private readonly varied = computed(() => [this.across(), this.down()].filter((axis) => axis !== null));
  protected readonly decided = computed(() => JSON.stringify(this.choice.master()?.overrides ?? null));
  private readonly wish = computed((): StripWish | null => {
    const [master, strip, centre] = [this.choice.master(), this.strip(), this.choice.centre()];
    if (!master || !strip || !this.choice.isPlaced() || !this.room()) return null;
    const view = { kind: 'part' as const, ...centre, size: this.seen() };
    return { masterId: master.id, decided: this.decided(), tiles: strip.tiles, view };
    // News of the set that change nothing here ask for nothing anew.
  }, SAME_DATA);
  /** Tiles as they stand, row by row. */
  protected readonly tiles = computed((): ShownTile[] => {
    const [wish, states] = [this.wish(), this.source.tiles()];
    if (!wish) return [];
    return wish.tiles
      .map((tile) => shownTile(wish, tile, states.get(placeOf(tile)), this.varied()))
      .sort((a, b) => a.tile.row - b.tile.row || a.tile.column - b.tile.column);
  });
  /** What all tiles have alike, since none of the settings that are varied makes it. */
  protected readonly alike = computed(() => {
    const now = this.tiles().find(({ tile }) => tile.isPresent);
    return now?.isThere ? now.alike.map((fault) => ALIKE_WORDS[fault]).filter(Boolean) : [];
  });
  protected readonly areThere = computed(() => this.tiles().length > 0 && this.tiles().every(({ isThere }) => isThere));
  /** With two settings the columns stand under each other; with one the tiles flow. */
  protected readonly columns = computed(() => (this.down() ? (this.strip()?.columns.length ?? 1) : 0));
  private readonly stripKey = computed(() => JSON.stringify([this.strip()?.tiles.map(({ says }) => says), this.choice.master()?.id]));
  protected readonly pickedKey = linkedSignal<string, string | null>({ source: this.stripKey, computation: () => null });
  protected readonly picked = computed(() => this.tiles().find(({ key }) => key === this.pickedKey()) ?? null);
  /** The picked tile against the one that the preset makes now. */
  protected readonly comparison = computed(() => {
    const picked = this.picked();
    if (!picked) return '';
    const now = this.tiles().find(({ tile }) => tile.isPresent);
    const [is, was] = [picked.bytes, now?.bytes];
    if (!is || !was || picked === now) return picked.tile.isPresent ? 'as the preset is now' : '';
    const change = Math.round(100 * (is / was - 1));
    return change === 0 ? 'as heavy as now' : `${Math.abs(change)} % ${change < 0 ? 'lighter' : 'heavier'} than now`;
  });
  protected readonly overCeiling = computed(() => {
    const [picked, ceiling] = [this.picked(), this.choice.preset()?.file.ceiling];
    const bytes = picked?.bytes;
    return ceiling && bytes && bytes > ceiling.bytes ? `over the ceiling of ${weight(ceiling.bytes)}, which stays in force` : '';
  });

  constructor() {
    effect(() => {
      const wish = this.wish();
      if (wish) untracked(() => this.source.show(wish));
    });
    const observer = new ResizeObserver(([entry]) => entry && this.room.set(Math.floor(entry.contentRect.width)));
    effect(() => {
      const list = this.list();
      if (list) observer.observe(list.nativeElement);
    });
    inject(DestroyRef).onDestroy(() => observer.disconnect());
    // What is now comes into sight first; what lies around it is near then.
    afterRenderEffect(() => {
      this.stripKey();
      const present = untracked(() => this.list()?.nativeElement.querySelector('.present'));
      present?.scrollIntoView({ block: 'center' });
    });
  }

  protected readonly seen = computed(() => {
    const { width, height } = this.tileSize();
    return { width: Math.round(width * devicePixelRatio), height: Math.round(height * devicePixelRatio) };
  });

  /** Where nobody has gone anywhere yet, a strip begins at the finest detail. */
  protected placed(found: Record<PlaceKind, FoundPlace | null> | null): void {
    if (this.choice.isPlaced()) return;
    if (found?.busiest) this.choice.centre.set(found.busiest);
    this.choice.isPlaced.set(true);
  }

  protected pick(key: string): void {
    this.choice.said.set('');
    this.pickedKey.set(key);
  }

  protected varyAcross(id: AxisId): void {
    this.choice.said.set('');
    if (id === this.down()) this.downAsked.set(this.across());
    this.acrossAsked.set(id);
  }

  protected varyDown(id: AxisId | ''): void {
    this.choice.said.set('');
    this.downAsked.set(id || null);
  }

  protected async save(): Promise<void> {
    const [master, stored] = [this.choice.master(), this.choice.stored()];
    if (!master || !stored) return;
    const tiles = this.tiles().map(({ tile, url, weight: heavy, difference, faults }) => ({
      url,
      lines: [tile.says, [heavy, difference, ...faults].filter(Boolean).join(', ')],
    }));
    await saveStrip({ title: `${master.fileName}, ${stored.preset.title}`, tiles, columns: this.columns() || 4, size: this.seen() });
  }
}

/** A tile of another place or picture keeps that on the screen, dimmed, and tells nothing. */
function shownTile(wish: StripWish, tile: Tile, state: TileState | undefined, varied: readonly AxisId[]): ShownTile {
  const isThere = matchOf(state?.look?.asked, wantedOf(wish, tile)) === 'wanted';
  const { facts, problem } = (isThere && state?.look) || { facts: null, problem: null };
  const measured = state?.measured?.file === fileOf(wish, tile) ? state.measured : null;
  const judgement = facts?.judgement ?? null;
  const all = facts ? faultsOf(facts) : [];
  const isVaried = (fault: Fault) => MADE_BEFORE[fault]?.some((axis) => varied.includes(axis)) ?? true;
  const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;
  const thousandths = (difference: number) => (1000 * difference).toFixed(1);
  const figures = judgement
    ? [
        `visible difference ${thousandths(judgement.difference)}`,
        `fidelity ${(100 * judgement.likeness).toFixed(1)} %`,
        judgement.banding ? `steps in smooth areas: ${percent(judgement.banding)}` : '',
        judgement.blocks ? `visible block edges: ${percent(judgement.blocks)}` : '',
      ]
    : [];
  return {
    tile,
    key: placeOf(tile),
    url: state?.look?.url ?? null,
    isThere,
    bytes: measured?.bytes ?? null,
    weight: measured ? weight(measured.bytes) : '',
    difference: judgement ? differenceOf(judgement.difference) : '',
    faults: all.filter((fault) => isVaried(fault)).map((fault) => FAULT_WORDS[fault]),
    alike: all.filter((fault) => !isVaried(fault)),
    figures: figures.filter(Boolean).join('; '),
    problem,
    isExpected: (facts?.expected.length ?? 0) > 0,
  };
}
