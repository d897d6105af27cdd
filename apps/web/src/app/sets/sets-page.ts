import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, type OnDestroy, signal } from '@angular/core';
import { FormControl, FormsModule, ReactiveFormsModule, Validators } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { runStatus, type Shelf } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { setFileUrl, thumbnailUrl } from '../api/api';
import { droppedFiles } from '../arrive/dropped-files';
import { DropHint } from '../arrive/drop-hint';
import { FileDrop } from '../arrive/file-drop';
import { runsFeature } from '../runs/runs.store';
import { CountedPipe, WeightPipe } from '../look/figures';
import { setsActions, setsFeature } from './sets.store';
import { TakeSetIn } from './take-set-in';

@Component({
  selector: 'rd-sets-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    DatePipe,
    RouterLink,
    FormsModule,
    ReactiveFormsModule,
    NzButtonModule,
    NzInputModule,
    NzSkeletonModule,
    CountedPipe,
    DropHint,
    WeightPipe,
    TakeSetIn,
  ],
  hostDirectives: [FileDrop],
  template: `
    <div class="page">
      <div class="head">
        <h1>Sets</h1>
        <nav aria-label="Shelves">
          @for (one of shelves; track one[0]) {
            <button type="button" [attr.aria-pressed]="shelf() === one[0]" (click)="shelf.set(one[0])">
              {{ one[1] }} <span class="soft figures">{{ loaded() ? counts()[one[0]] : '' }}</span>
            </button>
          }
        </nav>
        <input
          nz-input
          class="search"
          type="search"
          placeholder="Find a set"
          aria-label="Find a set"
          [ngModel]="text()"
          (ngModelChange)="text.set($event)"
        />
        <form (submit)="make($event, field)">
          <label class="quiet" for="new-set">Name of the new set</label>
          <input #field nz-input id="new-set" [formControl]="title" placeholder="Name of the new set" autocomplete="off" />
          <button nz-button nzType="primary" type="submit">Make a set</button>
        </form>
        <a nz-button routerLink="/web-versions" title="One preset over a few pictures, without making a set first">A few pictures …</a>
        <rd-take-set-in />
      </div>
      @if (!loaded()) {
        <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 4 }" />
      } @else {
        @if (isFirst()) {
          <p class="greeting">
            Drop a folder of finished pictures anywhere on this page, and it is a set: Rundle makes web versions of all of them, and never
            changes a master. Or try it with the demo set first.
          </p>
        }
        <ul>
          @for (set of shown(); track set.id) {
            <li class="set">
              <a [routerLink]="['/sets', set.id]">
                <span class="covers" aria-hidden="true">
                  @for (cover of set.covers; track cover) {
                    <img [src]="thumbnail({ id: cover })" alt="" />
                  } @empty {
                    <span class="none"></span>
                  }
                </span>
                <span class="words">
                  <strong>{{ set.title }}</strong>
                  <span class="soft figures">{{ set.createdAt | date: 'd MMMM y' }}{{ ends().get(set.id) }}</span>
                </span>
                <span class="figures count">{{ set.pictures | counted: 'picture' }}</span>
                <span class="figures count">{{ set.bytes | weight }}</span>
                <span class="figures count" [class.soft]="!set.outputs">
                  @if (set.running) {
                    {{ underWay().get(set.id) ?? 'run under way' }}
                  } @else if (set.outputs) {
                    {{ set.outputs | counted: 'output' }} ready
                  } @else {
                    nothing out yet
                  }
                </span>
              </a>
              <span class="do">
                @switch (set.shelf) {
                  @case ('work') {
                    <button nz-button nzType="text" nzSize="small" (click)="duplicate(set.id)">Duplicate</button>
                    <button nz-button nzType="text" nzSize="small" (click)="put(set.id, 'archive')">Archive</button>
                    <button nz-button nzType="text" nzSize="small" (click)="packing.set(set.id)">As a file …</button>
                    <button nz-button nzType="text" nzSize="small" (click)="finishing.set(set.id)">Finish …</button>
                    <button nz-button nzType="text" nzSize="small" (click)="put(set.id, 'bin')">Bin</button>
                  }
                  @case ('archive') {
                    <button nz-button nzType="text" nzSize="small" (click)="put(set.id, 'work')">Back to work</button>
                    <button nz-button nzType="text" nzSize="small" (click)="put(set.id, 'bin')">Bin</button>
                  }
                  @case ('bin') {
                    <button nz-button nzType="text" nzSize="small" (click)="put(set.id, 'work')">Restore</button>
                  }
                }
              </span>
            </li>
            @if (packing() === set.id) {
              <li class="question" role="region" [attr.aria-label]="set.title + ' as a file'">
                <p>
                  The whole set as one open file, for another studio or another machine: order, stars, tags, decisions, presets and the
                  record, as a ZIP that anything can open.
                </p>
                <a nz-button nzType="primary" [href]="fileOf(set.id, 'without')" download>Without masters</a>
                <a nz-button [href]="fileOf(set.id, 'with')" download>With masters, {{ set.bytes | weight }}</a>
                <button nz-button type="button" (click)="packing.set(null)">Close</button>
              </li>
            }
            @if (finishing() === set.id) {
              <li class="question" role="alertdialog" [attr.aria-label]="'Finish ' + set.title">
                <p>
                  Finish “{{ set.title }}”: it goes into the archive{{
                    set.outputs ? '; removed from Rundle’s own folder: ' + (set.outputs | counted: 'output') : ''
                  }}. Masters, small pictures, the record and the versions of its presets stay, so that one run makes all of it again. Files
                  that went elsewhere stay there.
                </p>
                <button nz-button nzType="primary" type="button" (click)="finish(set.id)">Finish the set</button>
                <button nz-button type="button" (click)="finishing.set(null)">Not now</button>
              </li>
            }
          } @empty {
            <li class="empty">
              @if (text()) {
                <h2>No set is called like that here</h2>
                <p>Look on the other shelves, or shorten what you are looking for.</p>
              } @else {
                @switch (shelf()) {
                  @case ('work') {
                    <h2>No sets yet</h2>
                    <p>A set holds the pictures of one job. Drop a folder of them here, or give it a name above and bring them in then.</p>
                  }
                  @case ('archive') {
                    <h2>Nothing in the archive</h2>
                    <p>What is delivered can be put here, out of the way.</p>
                  }
                  @case ('bin') {
                    <h2>The bin is empty</h2>
                    <p>Sets stay here for 30 days, and can be restored until then.</p>
                  }
                }
              }
            </li>
          }
        </ul>
      }
    </div>
    @if (isOver()) {
      <rd-drop-hint>Let go to make a set of these pictures</rd-drop-hint>
    }
  `,
  styleUrl: './sets-page.less',
})
export class SetsPage implements OnDestroy {
  private readonly store = inject(Store);
  protected readonly sets = this.store.selectSignal(setsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(setsFeature.selectLoaded);
  private readonly openRuns = this.store.selectSignal(runsFeature.selectOpen);
  private readonly ahead = this.store.selectSignal(runsFeature.selectAhead);
  private readonly pastRuns = this.store.selectSignal(runsFeature.selectPast);
  /** How far the run of a set is. */
  protected readonly underWay = computed(
    () => new Map(this.openRuns().map((run) => [run.setId, runStatus(run, this.ahead().get(run.id)).words])),
  );
  /** How the last run of each set ended, in the words of Plan. */
  protected readonly ends = computed(() => {
    const ends = new Map<string, string>();
    for (const run of this.pastRuns()) if (!ends.has(run.setId)) ends.set(run.setId, `; ${runStatus(run).words}`);
    return ends;
  });
  protected readonly title = new FormControl('', {
    nonNullable: true,
    validators: [Validators.required, Validators.maxLength(120), Validators.pattern(/\S/)],
  });
  protected readonly thumbnail = thumbnailUrl;
  protected readonly shelves: [Shelf, string][] = [
    ['work', 'In work'],
    ['archive', 'Archive'],
    ['bin', 'Bin'],
  ];
  protected readonly shelf = signal<Shelf>('work');
  protected readonly text = signal('');
  /** The set that is to be had as a file. */
  protected readonly packing = signal<string | null>(null);
  protected readonly fileOf = setFileUrl;
  /** The set of which it is asked whether it is to be finished. */
  protected readonly finishing = signal<string | null>(null);
  private readonly drop = inject(FileDrop);
  protected readonly isOver = this.drop.isOver;
  private readonly runsLoaded = this.store.selectSignal(runsFeature.selectLoaded);
  /** There is the demo set, and nothing has ever been run. */
  protected readonly isFirst = computed(
    () => this.loaded() && this.runsLoaded() && this.sets().length === 1 && !this.pastRuns().length && !this.openRuns().length,
  );
  protected readonly counts = computed(() => {
    const count = (shelf: Shelf) => this.sets().filter((set) => set.shelf === shelf).length;
    return { work: count('work'), archive: count('archive'), bin: count('bin') };
  });
  protected readonly shown = computed(() => {
    const text = this.text().trim().toLocaleLowerCase('en');
    return this.sets().filter(({ shelf, title }) => shelf === this.shelf() && title.toLocaleLowerCase('en').includes(text));
  });

  constructor() {
    this.drop.dropped.subscribe((items) => void this.makeOf(items));
    this.store.dispatch(setsActions.pageOpened());
  }

  ngOnDestroy(): void {
    this.store.dispatch(setsActions.pageLeft());
  }

  protected put(setId: string, shelf: Shelf): void {
    this.store.dispatch(setsActions.shelfChosen({ setId, shelf }));
  }

  protected finish(setId: string): void {
    this.finishing.set(null);
    this.store.dispatch(setsActions.finishPressed({ setId }));
  }

  protected duplicate(setId: string): void {
    this.store.dispatch(setsActions.duplicateAskedFor({ setId }));
  }

  /** Makes a set of what was dropped, called as its folder, or by the day. */
  private async makeOf(items: DataTransferItemList): Promise<void> {
    const folder = items.length === 1 ? items[0]!.webkitGetAsEntry() : null;
    const day = new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
    const title = folder?.isDirectory ? folder.name.slice(0, 120) : `Pictures of ${day}`;
    const files = await droppedFiles(items);
    if (files.length) this.store.dispatch(setsActions.newSetAskedFor({ title, files }));
  }

  protected make(event: Event, field: HTMLInputElement): void {
    event.preventDefault();
    if (this.title.invalid) return field.focus();
    this.store.dispatch(setsActions.newSetAskedFor({ title: this.title.value.trim(), files: [] }));
    this.title.reset();
  }
}
