import { computed, type Signal, signal } from '@angular/core';
import { hasParts, type MasterDetail, NO_DECISIONS, partPreset, partsOfPicture, partTitle, type Preset } from '@rundle/core';

/** Which of the files that a preset makes of a picture is looked at. */
export class PartChoice {
  private readonly asked = signal<string | null>(null);
  /** All there are, with what they are called; empty: the preset makes one file. Panels can be seen together, too. */
  readonly parts = computed((): readonly { part: string; label: string }[] => {
    const preset = this.whole();
    if (!hasParts(preset)) return [];
    const master = this.master();
    const facts = master?.state === 'ready' ? master.facts : null;
    const own = partsOfPicture(facts, preset, null, master?.overrides ?? NO_DECISIONS).map(({ part }) => ({
      part,
      label: partTitle(preset, part),
    }));
    return preset.panels ? [{ part: '', label: 'All panels' }, ...own] : own;
  });
  /** Until one is chosen the largest size, and all panels. */
  readonly part = computed(() => {
    const [parts, asked] = [this.parts(), this.asked()];
    if (asked !== null && parts.some(({ part }) => part === asked)) return asked;
    return (this.whole().panels ? parts[0] : parts.at(-1))?.part ?? '';
  });
  /** The preset as it makes that file. */
  readonly preset = computed(() => partPreset(this.whole(), this.part()));

  constructor(
    private readonly whole: Signal<Preset>,
    private readonly master: Signal<MasterDetail | null>,
  ) {}

  choose(part: string): void {
    this.asked.set(part);
  }
}
