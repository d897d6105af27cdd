import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { catchError, concatMap, EMPTY, finalize, type Observable, Subject, switchMap } from 'rxjs';
import { FILE_TYPE_LABELS, ENCODED_TYPE_NAMES, HouseRules, labelAt, type StoredHouseRules } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { SelectName } from '../look/select-name';
import { listOf } from '../shell/list-of';
import { callFailed } from '../shell/problems';

const NUMBERS = [
  ['mostPixels', labelAt(HouseRules, 'mostPixels'), 'px', 1],
  ['leastShortSide', labelAt(HouseRules, 'leastShortSide'), 'px', 1],
  ['mostBytes', labelAt(HouseRules, 'mostBytes'), 'KB', 1000],
] as const;
type NumberField = (typeof NUMBERS)[number][0];

/** What receivers demand: written down once, chosen for a set under Vet. Each value is kept as soon as it is left. */
@Component({
  selector: 'rd-house-rules',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzInputModule, NzSelectModule, SelectName],
  template: `
    <h2>House rules</h2>
    <p class="soft lead">What a receiver demands. Choose one for a set under Vet: masters are held against it there, outputs under Plan.</p>
    <ul>
      @for (house of list(); track house.id) {
        <li>
          <input
            nz-input
            class="title"
            aria-label="Name of the receiver"
            maxlength="120"
            #name
            [value]="house.rules.title"
            (change)="changeTitle(house, name)"
          />
          @for (field of numbers; track field[0]) {
            <label [for]="field[0] + house.id">
              <span class="soft">{{ field[1] }}, {{ field[2] }}</span>
              <input
                nz-input
                inputmode="numeric"
                placeholder="any"
                [id]="field[0] + house.id"
                #number
                [value]="shown(house, field[0], field[3])"
                (change)="changeNumber(house, field[0], field[3], number)"
              />
            </label>
          }
          <nz-select
            nzMode="multiple"
            nzPlaceHolder="Any type"
            [rdName]="'Types that ' + house.rules.title + ' takes'"
            [ngModel]="house.rules.types"
            (ngModelChange)="change(house, { types: $event })"
          >
            @for (type of types; track type) {
              <nz-option [nzValue]="type" [nzLabel]="labels[type]" />
            }
          </nz-select>
          <nz-select
            nzMode="multiple"
            nzPlaceHolder="Any colours"
            [rdName]="'Colours that ' + house.rules.title + ' takes'"
            [ngModel]="house.rules.spaces"
            (ngModelChange)="change(house, { spaces: $event })"
          >
            @for (space of spaces; track space[0]) {
              <nz-option [nzValue]="space[0]" [nzLabel]="space[1]" />
            }
          </nz-select>
          <button nz-button nzType="text" [attr.aria-label]="'Delete ' + house.rules.title" (click)="remove(house)">Delete</button>
        </li>
      }
    </ul>
    <button nz-button (click)="add()">Write down another receiver</button>
  `,
  styles: `
    :host {
      display: block;
      grid-column: 1 / -1;
      margin-top: 8px;
    }
    .lead {
      max-width: none;
      margin-bottom: 8px;
    }
    ul {
      max-width: none;
      margin: 0 0 12px;
      padding: 0;
      list-style: none;
    }
    li {
      display: grid;
      grid-template-columns: minmax(150px, 1fr) repeat(3, 138px) 150px 150px auto;
      gap: 10px;
      align-items: end;
      padding: 10px 0;
      border-bottom: 1px solid var(--line);
    }
    .title {
      font-weight: 600;
    }
    label span {
      display: block;
      font-size: 13px;
    }
    label input {
      text-align: right;
    }
  `,
})
export class HouseRulesList {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  protected readonly list = signal<StoredHouseRules[]>([]);
  protected readonly numbers = NUMBERS;
  protected readonly types = ENCODED_TYPE_NAMES;
  protected readonly labels = FILE_TYPE_LABELS;
  protected readonly spaces = [
    ['srgb', 'sRGB'],
    ['display-p3', 'Display P3'],
    ['adobe-rgb', 'Adobe RGB'],
    ['romm', 'ROMM RGB'],
    ['rec2020', 'Rec. 2020'],
  ] as const;

  /** Saved one after the other, also when the page is left meanwhile. */
  private readonly changes = new Subject<{ id: string; before: Partial<HouseRules> }>();

  private unsaved = 0;

  constructor() {
    this.changes.pipe(concatMap((change) => this.save(change))).subscribe();
    listOf('house-rules')
      .pipe(switchMap(() => this.api.listHouseRules()))
      .subscribe({
        // What has been changed here and not been saved yet would be lost; it is told of when it has been.
        next: (list) => this.unsaved === 0 && this.list.set(list),
        error: this.failed('The house rules could not be loaded'),
      });
  }

  protected shown({ rules }: StoredHouseRules, field: NumberField, unit: number): string {
    const value = rules[field];
    return value === null ? '' : String(value / unit);
  }

  protected changeTitle(house: StoredHouseRules, field: HTMLInputElement): void {
    const title = field.value.trim();
    if (title) this.change(house, { title });
    else field.value = house.rules.title; // rules without a name could not be chosen
  }

  protected changeNumber(house: StoredHouseRules, name: NumberField, unit: number, field: HTMLInputElement): void {
    const text = field.value.trim();
    const value = text === '' ? null : Math.round(Number(text.replace(',', '.')) * unit);
    if (!Number.isNaN(value)) return this.change(house, { [name]: value });
    this.notChanged(`“${text}” is no number. Write digits only, or nothing where anything goes.`);
    field.value = this.shown(house, name, unit);
  }

  protected change({ id, rules }: StoredHouseRules, part: Partial<HouseRules>): void {
    const before = Object.fromEntries(Object.keys(part).map((key) => [key, rules[key as keyof HouseRules]])) as Partial<HouseRules>;
    // Known here at once: the next field may be left before the server has answered.
    this.put(id, part);
    this.unsaved++;
    this.changes.next({ id, before });
  }

  /** Sends what stands there when its turn comes: a change that was refused before is not sent again. */
  private save({ id, before }: { id: string; before: Partial<HouseRules> }): Observable<unknown> {
    const house = this.list().find((one) => one.id === id);
    if (!house) {
      this.unsaved--;
      return EMPTY;
    }
    return this.api.changeHouseRules({ houseRulesId: id, body: house.rules }).pipe(
      catchError((error: unknown) => {
        this.put(id, before);
        this.notChanged(sentenceOf(error));
        return EMPTY;
      }),
      finalize(() => this.unsaved--),
    );
  }

  private put(id: string, part: Partial<HouseRules>): void {
    this.list.update((list) => list.map((one) => (one.id === id ? { ...one, rules: { ...one.rules, ...part } } : one)));
  }

  private notChanged(sentence: string): void {
    this.store.dispatch(callFailed({ what: 'The house rules were not changed', sentence }));
  }

  protected add(): void {
    this.api.createHouseRules({ body: HouseRules.parse({ title: 'A receiver' }) }).subscribe({
      next: (made) => this.list.update((list) => [...list, made]),
      error: this.failed('The house rules were not written down'),
    });
  }

  protected remove({ id }: StoredHouseRules): void {
    this.api.deleteHouseRules({ houseRulesId: id }).subscribe({
      next: () => this.list.update((list) => list.filter((one) => one.id !== id)),
      error: this.failed('The house rules were not deleted'),
    });
  }

  private readonly failed = (what: string) => (error: unknown) => this.store.dispatch(callFailed({ what, sentence: sentenceOf(error) }));
}
