import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { inPicture, type Master, sheetLayout, SheetLook, type SheetWish, viewOfCrop } from '@rundle/core';
import { outputThumbnailUrl, thumbnailUrl } from '../api/api';
import { columnsOf, handOverFeature } from '../hand-over/hand-over.store';
import { ViewChoices } from '../look/view-choices';
import { presetsFeature } from '../presets/presets.store';
import { setFeature } from '../set/set.store';

/** A picture of the sheet as it is seen beforehand. */
export interface SheetEntry {
  id: string;
  url: string;
  width: number;
  height: number;
  lines: { words: string; is: 'name' | 'kind' }[];
  /** Of a picture that is cropped: its own size, and how it is turned and moved so that its crop lies at 0, px; null: it is whole. */
  matrix: {
    of: { width: number; height: number };
    turned: readonly [number, number, number, number];
    moved: readonly [number, number];
  } | null;
}

/** What comes on a sheet of prints, and how. */
@Injectable()
export class SheetChoice {
  private readonly store = inject(Store);
  private readonly view = inject(ViewChoices);
  readonly set = this.store.selectSignal(setFeature.selectSet);
  readonly isWhole = this.store.selectSignal(setFeature.selectIsWhole);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  private readonly selected = this.store.selectSignal(setFeature.selectSelected);
  private readonly handOver = this.store.selectSignal(handOverFeature.selectView);
  private readonly presets = this.store.selectSignal(presetsFeature.selectList);

  /** As it was set last; the title is the set's. */
  readonly look = signal<SheetLook>(lookOf(this.view.sheet()));
  readonly title = signal<string | null>(null);
  readonly wholeLook = computed((): SheetLook => ({ ...this.look(), title: this.title() ?? this.set()?.title ?? '' }));
  /** The files that can be laid out: the pictures themselves, or what a preset has made of them. */
  readonly columns = computed(() => columnsOf(this.handOver()?.outputs ?? [], this.presets()));
  /** Which of them: `presetId part`; empty: the pictures. */
  readonly columnAsked = signal('');
  readonly column = computed(() => this.columns().find(({ presetId, part }) => `${presetId} ${part}` === this.columnAsked()) ?? null);
  /** The same, as long as it is there. */
  readonly columnKey = computed(() => (this.column() ? this.columnAsked() : ''));
  readonly onlySelected = signal(true);
  readonly selectedCount = computed(() => this.selected().length);

  /** Null: it is not known yet. */
  readonly entries = computed((): readonly SheetEntry[] | null => {
    const [masters, column] = [this.chosen(), this.column()];
    if (!this.isWhole() || (this.columnAsked() && !this.handOver())) return null;
    const outputs = new Map(
      (this.handOver()?.outputs ?? [])
        .filter(({ presetId, part, file }) => presetId === column?.presetId && part === column.part && file === 'stands')
        .map((output) => [output.masterId, output]),
    );
    return masters.flatMap((master): SheetEntry[] => {
      if (!column) {
        const shown = cropped(master);
        return shown ? [entryOf(master.id, master.fileName, thumbnailUrl(master), shown, this.look())] : [];
      }
      const output = outputs.get(master.id);
      return output
        ? [
            entryOf(
              master.id,
              output.fileName,
              outputThumbnailUrl(output.id),
              { width: output.width, height: output.height, matrix: null },
              this.look(),
            ),
          ]
        : [];
    });
  });
  /** Null, with why, where there is no room for pictures. */
  readonly layout = computed(() => {
    try {
      return { ok: true as const, value: sheetLayout(this.wholeLook()) };
    } catch (error) {
      return { ok: false as const, problem: error instanceof Error ? error.message : String(error) };
    }
  });
  readonly wish = computed((): SheetWish => {
    const column = this.column();
    return {
      look: this.wholeLook(),
      of: column ? { kind: 'outputs', presetId: column.presetId, part: column.part } : { kind: 'masters' },
      masterIds: this.onlySelected() && this.selectedCount() ? [...this.selected()] : [],
    };
  });

  change(values: Partial<SheetLook>): void {
    const look = SheetLook.safeParse({ ...this.look(), ...values });
    if (!look.success) return;
    this.look.set(look.data);
    this.view.sheet.set(JSON.stringify({ ...look.data, title: '' }));
  }

  private readonly chosen = computed((): readonly Master[] => {
    const selected = new Set(this.selected());
    const isOnly = this.onlySelected() && selected.size > 0;
    return this.masters().filter(({ id, choice, state }) => (isOnly ? selected.has(id) : choice !== 'out' && state === 'ready'));
  });
}

function entryOf(
  id: string,
  fileName: string,
  url: string,
  shown: Pick<SheetEntry, 'width' | 'height' | 'matrix'>,
  look: SheetLook,
): SheetEntry {
  // What stands in the files is known when the sheet is made.
  const lines = [
    ...(look.names ? [{ words: fileName, is: 'name' as const }] : []),
    ...(look.titles ? [{ words: 'title', is: 'kind' as const }] : []),
    ...(look.credit ? [{ words: 'credit line', is: 'kind' as const }] : []),
  ];
  return { id, url, ...shown, lines };
}

/** A master as it is cropped: of the whole picture, what is seen of it and how it is turned. */
function cropped({ facts, overrides }: Master): Pick<SheetEntry, 'width' | 'height' | 'matrix'> | null {
  if (!facts) return null;
  const { width, height } = facts;
  if (!overrides.crop) return { width, height, matrix: null };
  const view = viewOfCrop(facts, overrides.crop);
  const at = inPicture(view, { x: 0, y: 0 });
  const [right, down] = [inPicture(view, { x: 1, y: 0 }), inPicture(view, { x: 0, y: 1 })];
  const [across, along] = [
    { x: right.x - at.x, y: right.y - at.y },
    { x: down.x - at.x, y: down.y - at.y },
  ];
  const turned = [across.x, along.x, across.y, along.y] as const;
  const moved = [-(at.x * across.x + at.y * across.y), -(at.x * along.x + at.y * along.y)] as const;
  return { width: view.width, height: view.height, matrix: { of: { width, height }, turned, moved } };
}

function lookOf(kept: string): SheetLook {
  try {
    return SheetLook.parse(JSON.parse(kept));
  } catch {
    return SheetLook.parse({});
  }
}
