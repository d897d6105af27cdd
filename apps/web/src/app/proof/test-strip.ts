import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  inject,
  linkedSignal,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { AXES, axesOf, type AxisId, differenceOf, type Fault, faultsOf, type FileTypeName, stripOf, type Tile } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { weight } from '../look/figures';
import { SelectName } from '../look/select-name';
import { AdoptBar } from './adopt-bar';
import { PlaceInPicture } from './place-in-picture';
import { ProofChoice } from './proof-choice';
import { saveStrip } from './save-strip';
import { StripSource, type TileState } from './strip-source';

/** Size of a tile's picture, CSS px. */
const TILE = { width: 226, height: 160 };

const FAULT_WORDS: Record<Fault, string> = {
  banding: 'bands',
  blocks: 'blocks',
  halos: 'rims',
  clipping: 'colour lost',
};

/** A tile as it is shown. */
interface ShownTile {
  tile: Tile;
  key: string;
  url: string | null;
  weight: string;
  difference: string;
  faults: string[];
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
  protected readonly tileSize = TILE;
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
  /** Tiles as they stand, row by row. */
  protected readonly tiles = computed((): ShownTile[] => {
    const [strip, states] = [this.strip(), this.source.tiles()];
    if (!strip) return [];
    return strip.tiles
      .map((tile) => shownTile(tile, states.get(`${tile.column} ${tile.row}`)))
      .sort((a, b) => a.tile.row - b.tile.row || a.tile.column - b.tile.column);
  });
  /** With two settings the columns stand under each other; with one the tiles flow. */
  protected readonly columns = computed(() => (this.down() ? (this.strip()?.columns.length ?? 1) : 0));
  private readonly stripKey = computed(() => JSON.stringify([this.strip()?.tiles.map(({ says }) => says), this.choice.master()?.id]));
  protected readonly pickedKey = linkedSignal<string, string | null>({ source: this.stripKey, computation: () => null });
  protected readonly picked = computed(() => this.tiles().find(({ key }) => key === this.pickedKey()) ?? null);
  /** The picked tile against the one that the preset makes now. */
  protected readonly comparison = computed(() => {
    const [picked, states] = [this.picked(), this.source.tiles()];
    if (!picked) return '';
    const now = this.tiles().find(({ tile }) => tile.isPresent);
    const [is, was] = [picked, now].map((one) => one && (states.get(one.key)?.measured?.bytes ?? null));
    if (!is || !was || picked === now) return picked.tile.isPresent ? 'as the preset is now' : '';
    const change = Math.round(100 * (is / was - 1));
    return change === 0 ? 'as heavy as now' : `${Math.abs(change)} % ${change < 0 ? 'lighter' : 'heavier'} than now`;
  });
  protected readonly overCeiling = computed(() => {
    const [picked, ceiling] = [this.picked(), this.choice.preset()?.file.ceiling];
    const bytes = picked && this.source.tiles().get(picked.key)?.measured?.bytes;
    return ceiling && bytes && bytes > ceiling.bytes ? `over the ceiling of ${weight(ceiling.bytes)}, which stays in force` : '';
  });

  constructor() {
    let before = '';
    effect(() => {
      const [master, strip, centre] = [this.choice.master(), this.strip(), this.choice.centre()];
      if (!master || !strip) return;
      const decided = JSON.stringify(master.overrides);
      const files = JSON.stringify([master.id, decided, strip.tiles.map(({ preset }) => preset)]);
      untracked(() =>
        this.source.show(
          { masterId: master.id, decided, tiles: strip.tiles, view: { kind: 'part', ...centre, size: this.seen() } },
          files === before,
        ),
      );
      before = files;
    });
    // What is now comes into sight first; what lies around it is near then.
    afterRenderEffect(() => {
      this.stripKey();
      const present = untracked(() => this.list()?.nativeElement.querySelector('.present'));
      present?.scrollIntoView({ block: 'center' });
    });
  }

  protected readonly seen = computed(() => ({
    width: Math.round(TILE.width * devicePixelRatio),
    height: Math.round(TILE.height * devicePixelRatio),
  }));

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

function shownTile(tile: Tile, state: TileState | undefined): ShownTile {
  const { facts = null, measured = null, url = null, problem = null } = state ?? {};
  const judgement = facts?.judgement ?? null;
  const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;
  const thousandths = (difference: number) => (1000 * difference).toFixed(1);
  const figures = judgement
    ? [
        `difference ${thousandths(judgement.difference)} thousandths`,
        `MS-SSIM ${judgement.likeness.toFixed(4)}`,
        judgement.banding ? `steps in smooth areas: ${percent(judgement.banding)}` : '',
        judgement.blocks ? `visible block edges: ${percent(judgement.blocks)}` : '',
      ]
    : [];
  return {
    tile,
    key: `${tile.column} ${tile.row}`,
    url,
    weight: measured ? weight(measured.bytes) : '',
    difference: judgement ? differenceOf(judgement.difference) : '',
    faults: facts ? faultsOf(facts).map((fault) => FAULT_WORDS[fault]) : [],
    figures: figures.filter(Boolean).join('; '),
    problem,
    isExpected: (facts?.expected.length ?? 0) > 0,
  };
}
