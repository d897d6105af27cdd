import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { counted, type DecisionsFile, fileNameOf, parseDecisionsFile, undoOf } from '@rundle/core';
import { firstValueFrom } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { saveFile } from '../library/save-file';
import { setActions, setFeature } from '../set/set.store';

/** The most that the server takes in one call, bytes: decisions about some 10,000 pictures. */
const HEAVIEST = 2_000_000;

/** What was decided about the pictures of the set, on its way out and in as an open file. */
@Injectable()
export class DecisionFiles {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  private readonly masters = this.store.selectSignal(setFeature.selectMasters);
  /** What came of the last file. */
  readonly said = signal('');
  readonly isWrong = signal(false);

  async export(): Promise<void> {
    const set = this.set();
    if (!set) return;
    try {
      const file = await firstValueFrom(this.api.exportDecisions({ setId: set.id }));
      if (file.pictures.length === 0) return this.tell('Nothing has been decided about these pictures yet.', false);
      saveFile(fileNameOf(set.title, 'decisions'), file);
      this.tell(`${counted(file.pictures.length, 'picture')} in the file.`, false);
    } catch (error) {
      this.tell(`Not exported: ${sentenceOf(error)}`, true);
    }
  }

  async takeIn(field: HTMLInputElement): Promise<void> {
    const [file] = field.files ?? [];
    field.value = ''; // so that the same file can be chosen again
    if (!file) return;
    if (file.size > HEAVIEST) return this.tell(`${file.name} is heavier than 2 MB, which no file of decisions is.`, true);
    const parsed = parseDecisionsFile(await file.text());
    if (!parsed.ok) return this.tell(`${file.name}: ${parsed.problems[0]?.message ?? 'this is no file of decisions.'}`, true);
    await this.apply(file.name, parsed.value);
  }

  /** One edit that is undone like any other. */
  private async apply(name: string, file: DecisionsFile): Promise<void> {
    const set = this.set();
    if (!set) return;
    try {
      const { marks, others } = await firstValueFrom(this.api.matchDecisions({ setId: set.id, body: file }));
      const known = new Map(this.masters().map((master) => [master.id, master]));
      const after = marks.filter(({ masterId }) => known.has(masterId));
      const before = after.map(({ masterId, overrides }) => ({
        masterId,
        overrides: undoOf(known.get(masterId)!.overrides, overrides ?? {}),
      }));
      if (after.length) this.store.dispatch(setActions.edited({ edit: { kind: 'marks', label: `decisions of ${name}`, before, after } }));
      const left = others ? `; ${others} in it are not in this set` : '';
      this.tell(`${counted(after.length, 'picture')} changed by ${name}${left}.`, after.length === 0);
    } catch (error) {
      this.tell(`${name} was not imported: ${sentenceOf(error)}`, true);
    }
  }

  private tell(sentence: string, isWrong: boolean): void {
    this.said.set(sentence);
    this.isWrong.set(isWrong);
  }
}
