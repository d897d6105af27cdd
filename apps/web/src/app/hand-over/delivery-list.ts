import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { type Delivery, deliverySentence, FINDING_CODES, type FindingCode, isOpenDelivery } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { of } from 'rxjs';
import { Api, deliveryZipUrl, messageUrl } from '../api/api';
import { counted, weight } from '../look/figures';
import { Deliveries } from './deliveries';
import { handOverFeature } from './hand-over.store';

const WAYS: Record<Delivery['way']['kind'], string> = { folder: 'Folder', zip: 'ZIP', web: 'Web space', mail: 'Mail' };

/** The deliveries of the set: what became of each, and what can be done about it. */
@Component({
  selector: 'rd-delivery-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzSkeletonModule],
  template: `
    <h2>Deliveries</h2>
    @for (one of rows(); track one.id) {
      <article [attr.data-state]="one.state" [attr.aria-label]="one.what + ' to ' + one.receiver">
        <p class="head">
          <strong>{{ one.what }}</strong> <span class="to" [title]="one.receiver">{{ one.receiver }}</span>
          <span class="soft when">{{ one.when }}</span>
        </p>
        <p class="sentence figures" role="status">{{ one.sentence }}</p>
        @if (one.share !== null) {
          <div
            class="progress"
            role="progressbar"
            aria-label="Delivered"
            [attr.aria-valuenow]="one.percent"
            aria-valuemin="0"
            aria-valuemax="100"
          >
            <span [style.width.%]="one.percent"></span>
          </div>
        }
        @if (one.state === 'held') {
          <ul class="findings">
            @for (group of one.findings; track group.message) {
              <li>{{ group.message }}</li>
            }
          </ul>
        }
        <p class="acts">
          @if (one.state === 'held') {
            <button nz-button nzSize="small" nzType="primary" type="button" (click)="deliveries.decide(one.id, 'without')">
              Leave these out
            </button>
            <button nz-button nzSize="small" type="button" (click)="deliveries.decide(one.id, 'all')">Send all the same</button>
          }
          @if (one.open || one.state === 'held') {
            <button nz-button nzSize="small" type="button" [disabled]="one.stopping" (click)="deliveries.cancel(one.id)">
              {{ one.stopping ? 'Being cancelled …' : 'Cancel' }}
            </button>
          }
          @if (one.state === 'failed' || one.state === 'cancelled') {
            @if (one.renewed) {
              <span class="soft">{{ one.renewed }}</span>
              <button nz-button nzSize="small" nzType="primary" type="button" (click)="deliveries.resume(one.id, 'renewed')">
                Go on with the new ones
              </button>
              <button nz-button nzSize="small" type="button" (click)="deliveries.resume(one.id)">Go on with the old ones</button>
            } @else {
              <button nz-button nzSize="small" type="button" (click)="deliveries.resume(one.id)">Go on</button>
            }
          }
          @if (one.zip; as href) {
            <a nz-button nzSize="small" [href]="href" download>Download</a>
          }
          @for (message of one.messages; track message.number) {
            <a nz-button nzSize="small" [href]="message.href" download>{{ message.name }}</a>
          }
          @if (one.shownAt && one.state === 'done') {
            <a nz-button nzSize="small" [href]="one.shownAt" target="_blank" rel="noopener">Open it</a>
          }
          @if (one.state === 'done') {
            <button nz-button nzSize="small" type="button" (click)="deliveries.repeat(one.id)">Deliver again</button>
          }
          <button
            class="word"
            type="button"
            [attr.aria-expanded]="shown() === one.id"
            (click)="shown.set(shown() === one.id ? null : one.id)"
          >
            {{ shown() === one.id ? 'Hide what happened' : 'What happened' }}
          </button>
        </p>
        @if (shown() === one.id && detail(); as told) {
          <ol class="log">
            @for (line of told.log; track $index) {
              <li>
                <span class="soft figures">{{ line.at }}</span> {{ line.text }}
              </li>
            }
          </ol>
          @if (told.failed.length) {
            <ul class="findings">
              @for (file of told.failed; track file.path) {
                <li>{{ file.problem?.message }}</li>
              }
            </ul>
          }
        }
      </article>
    } @empty {
      @if (list()) {
        <p class="soft">
          None yet. What you deliver stands here, with what became of it; it can be repeated after a change, and then only what has changed
          is sent.
        </p>
      } @else {
        <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 3 }" />
      }
    }
  `,
  styleUrl: './delivery-list.less',
})
export class DeliveryList {
  private readonly api = inject(Api);
  protected readonly list = inject(Store).selectSignal(handOverFeature.selectDeliveries);
  protected readonly deliveries = inject(Deliveries);
  protected readonly shown = signal<string | null>(null);
  protected readonly rows = computed(() => (this.list() ?? []).map(rowOf));

  private readonly loaded = rxResource({
    // Anew whenever it has got further.
    params: () => ({ deliveryId: this.shown(), state: this.list()?.find(({ id }) => id === this.shown()) }),
    stream: ({ params: { deliveryId } }) => (deliveryId === null ? of(null) : this.api.getDelivery({ deliveryId })),
  });
  protected readonly detail = computed(() => {
    const told = this.loaded.hasValue() ? this.loaded.value() : null;
    if (told?.id !== this.shown() || !told) return null;
    return {
      log: told.log.map(({ at, text }) => ({ at: new Date(at).toLocaleTimeString('en-GB'), text })),
      failed: told.files.filter(({ problem }) => problem !== null),
    };
  });
}

function rowOf(delivery: Delivery) {
  const { id, way, state, receiver, counts, gallery, createdAt, messages, shownAt, stopping, renewed } = delivery;
  const share = state === 'sending' && counts.bytes ? (counts.sentBytes + 1) / (counts.bytes + 1) : null;
  return {
    id,
    state,
    receiver: way.kind === 'zip' ? 'to be downloaded' : receiver,
    stopping,
    renewed: renewed ? `${counted(renewed, 'file')} ${renewed === 1 ? 'has' : 'have'} been made anew since.` : '',
    shownAt,
    what: gallery ? `Gallery, ${WAYS[way.kind].toLowerCase()}` : WAYS[way.kind],
    when: new Date(createdAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' }),
    sentence: deliverySentence(delivery),
    open: isOpenDelivery(delivery),
    share,
    percent: share === null ? 0 : Math.round(100 * share),
    findings: findingGroups(delivery),
    zip: way.kind === 'zip' && state === 'done' ? deliveryZipUrl(id) : null,
    messages:
      way.kind === 'mail' && way.receiverId === null
        ? messages
            .filter(({ sent }) => sent)
            .map(({ number, bytes }) => ({
              number,
              name: `Message ${number}${bytes ? `, ${weight(bytes)}` : ''}`,
              href: messageUrl(id, number),
            }))
        : [],
  };
}

/** What breaks the rules of the receiver, a line for each kind, with what can be done. */
function findingGroups({ findings }: Delivery): { message: string }[] {
  const groups = new Map<FindingCode, string[]>();
  for (const { path, finding } of findings) groups.set(finding.code, [...(groups.get(finding.code) ?? []), path]);
  return [...groups].map(([code, paths]) => {
    const first = findings.find(({ finding }) => finding.code === code)!.finding.message;
    const more =
      paths.length > 1
        ? ` (${counted(paths.length, 'file')}: ${paths.slice(0, 3).join(', ')}${paths.length > 3 ? ' …' : ''})`
        : ` (${paths[0]})`;
    return { message: `${first}${more} ${FINDING_CODES[code].toDo}` };
  });
}
