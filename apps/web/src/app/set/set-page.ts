import { ChangeDetectionStrategy, Component, computed, effect, inject, input, type OnDestroy } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { arriveActions } from '../arrive/arrive.store';
import { droppedFiles } from '../arrive/dropped-files';
import { DropHint } from '../arrive/drop-hint';
import { FileDrop } from '../arrive/file-drop';
import { Ladder } from './ladder';
import { PageTitle } from '../shell/page-title';
import { setActions, setFeature } from './set.store';

/** A set under its ladder; the step that is open fills the page below. Files can be dropped anywhere on it. */
@Component({
  selector: 'rd-set-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterOutlet, DropHint, Ladder],
  hostDirectives: [FileDrop],
  template: `
    @if (sentence(); as said) {
      <div class="empty">
        <h1>This set cannot be shown</h1>
        <p>{{ said }}</p>
      </div>
    } @else {
      <h1 class="quiet">{{ step() }} – {{ title() }}</h1>
      <div class="top" [class.folded]="isFolded()">
        <div class="head">
          <label class="quiet" for="set-title">Name of the set</label>
          <input id="set-title" [value]="title()" [title]="title()" (change)="rename($event)" maxlength="120" spellcheck="false" />
        </div>
        <rd-ladder [setId]="setId()" [isFolded]="isFolded()" />
      </div>
      @if (trouble(); as said) {
        <p class="trouble" role="status">{{ said }}</p>
      }
      <router-outlet />
    }
    @if (dragging()) {
      <rd-drop-hint>Let go to bring the pictures into “{{ title() }}”</rd-drop-hint>
    }
  `,
  styles: `
    :host {
      display: block;
      min-height: calc(100vh - 46px);
    }
    .head {
      padding: 14px 28px 10px;
      input {
        width: 100%;
        max-width: 900px;
        padding: 0 4px;
        margin-left: -5px;
        font-size: 24px;
        font-weight: 600;
        line-height: 34px;
        height: 36px;
        color: var(--ink);
        background: transparent;
        border: 1px solid transparent;
        border-radius: var(--radius);
        &:hover {
          border-color: var(--line-strong);
        }
      }
    }
    // One line where the pictures want the room.
    .folded {
      display: grid;
      grid-template-columns: minmax(150px, 1fr) auto;
      align-items: center;
      padding-top: 8px;
      .head {
        padding: 0 0 0 28px;
        input {
          font-size: 18px;
          line-height: 28px;
          height: 30px;
          text-overflow: ellipsis;
        }
      }
    }
    .trouble {
      margin: 8px 28px 0;
      color: var(--ink-soft);
    }
  `,
})
export class SetPage implements OnDestroy {
  readonly setId = input.required<string>();
  private readonly store = inject(Store);
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly sentence = this.store.selectSignal(setFeature.selectSentence);
  private readonly failure = this.store.selectSignal(setFeature.selectTrouble);
  /** One quiet line while the set cannot be followed; all that is here stays, and it is tried again. */
  protected readonly trouble = computed(() => {
    const failure = this.failure();
    return failure && `The set could not be loaded: ${failure} It is tried again.`;
  });
  protected readonly title = computed(() => this.set()?.title ?? '');
  private readonly pageTitle = inject(PageTitle);
  protected readonly step = this.pageTitle.name;
  /** Where pictures are judged, the title and the ladder share one line. */
  protected readonly isFolded = computed(() => this.step() === 'Proof' || this.step() === 'Hand over');
  private readonly drop = inject(FileDrop);
  protected readonly dragging = this.drop.isOver;

  constructor() {
    this.drop.dropped.subscribe((items) => void this.bringIn(items));
    effect(() => this.pageTitle.setAbout(this.title()));
    effect(() => {
      this.store.dispatch(setActions.pageOpened({ setId: this.setId() }));
    });
  }

  ngOnDestroy(): void {
    this.store.dispatch(setActions.pageLeft());
    this.pageTitle.setAbout('');
  }

  protected rename(event: Event): void {
    const field = event.target as HTMLInputElement;
    const title = field.value.trim();
    if (title) this.store.dispatch(setActions.changedByHand({ setId: this.setId(), change: { title } }));
    else field.value = this.title();
  }

  private async bringIn(items: DataTransferItemList): Promise<void> {
    const files = await droppedFiles(items);
    if (files.length) this.store.dispatch(arriveActions.dropped({ setId: this.setId(), files }));
  }
}
