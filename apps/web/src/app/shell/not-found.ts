import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink } from '@angular/router';

@Component({
  selector: 'rd-not-found',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink],
  template: `<div class="empty">
    <h1>There is no page at this address</h1>
    <p>It may have been moved, or the link is not whole.</p>
    <a routerLink="/sets">To the sets</a>
  </div>`,
})
export class NotFound {}
