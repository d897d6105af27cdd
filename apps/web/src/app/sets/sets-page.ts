import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { FormControl, ReactiveFormsModule, Validators } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzInputModule } from 'ng-zorro-antd/input';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { thumbnailUrl } from '../api/api';
import { CountedPipe, WeightPipe } from '../look/figures';
import { setsActions, setsFeature } from './sets.store';

@Component({
  selector: 'rd-sets-page',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DatePipe, RouterLink, ReactiveFormsModule, NzButtonModule, NzInputModule, NzSkeletonModule, CountedPipe, WeightPipe],
  template: `
    <div class="page">
      <div class="head">
        <h1>Sets</h1>
        <form (submit)="make($event, field)">
          <label class="quiet" for="new-set">Name of the new set</label>
          <input #field nz-input id="new-set" [formControl]="title" placeholder="Name of the new set" autocomplete="off" />
          <button nz-button nzType="primary" type="submit">Make a set</button>
        </form>
      </div>
      @if (!loaded()) {
        <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 4 }" />
      } @else {
        <ul>
          @for (set of sets(); track set.id) {
            <li>
              <a [routerLink]="['/sets', set.id]">
                <span class="covers" aria-hidden="true">
                  @for (cover of set.covers; track cover) {
                    <img [src]="thumbnail(cover)" alt="" />
                  } @empty {
                    <span class="none"></span>
                  }
                </span>
                <span class="words">
                  <strong>{{ set.title }}</strong>
                  <span class="soft figures">{{ set.createdAt | date: 'd MMMM y' }}</span>
                </span>
                <span class="figures count">{{ set.pictures | counted: 'picture' }}</span>
                <span class="figures count">{{ set.bytes | weight }}</span>
                <span class="figures count" [class.soft]="!set.outputs">
                  @if (set.running) {
                    run under way
                  } @else if (set.outputs) {
                    {{ set.outputs | counted: 'output' }} ready
                  } @else {
                    nothing out yet
                  }
                </span>
              </a>
            </li>
          } @empty {
            <li class="empty">
              <h2>No sets yet</h2>
              <p>A set holds the pictures of one job. Give it a name above, then bring the pictures in.</p>
            </li>
          }
        </ul>
      }
    </div>
  `,
  styles: `
    .head {
      display: flex;
      align-items: center;
      justify-content: space-between;
      gap: 24px;
      margin-bottom: 18px;
    }
    form {
      display: flex;
      gap: 8px;
      input {
        width: 280px;
      }
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
      border-top: 1px solid var(--line);
    }
    li a {
      display: grid;
      grid-template-columns: 312px minmax(200px, 1fr) repeat(3, minmax(92px, auto));
      align-items: center;
      gap: 28px;
      padding: 12px 8px;
      color: var(--ink);
      border-bottom: 1px solid var(--line);
      &:hover {
        background: var(--sheet);
      }
    }
    .covers {
      display: grid;
      grid-template-columns: repeat(4, 75px);
      gap: 4px;
      img,
      .none {
        width: 75px;
        height: 62px;
        object-fit: cover;
        background: var(--surround);
      }
    }
    .words {
      display: flex;
      flex-direction: column;
      strong {
        font-size: 17px;
        font-weight: 600;
      }
    }
    .count {
      text-align: right;
    }
  `,
})
export class SetsPage {
  private readonly store = inject(Store);
  protected readonly sets = this.store.selectSignal(setsFeature.selectList);
  protected readonly loaded = this.store.selectSignal(setsFeature.selectLoaded);
  protected readonly title = new FormControl('', {
    nonNullable: true,
    validators: [Validators.required, Validators.maxLength(120), Validators.pattern(/\S/)],
  });
  protected readonly thumbnail = thumbnailUrl;

  constructor() {
    this.store.dispatch(setsActions.pageOpened());
  }

  protected make(event: Event, field: HTMLInputElement): void {
    event.preventDefault();
    if (this.title.invalid) return field.focus();
    this.store.dispatch(setsActions.newSetAskedFor({ title: this.title.value.trim() }));
    this.title.reset();
  }
}
