import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import {
  filesInWords,
  GALLERY_LAYOUTS,
  type GalleryLayout,
  isOpenDelivery,
  MAIL_WORDS,
  type NewDelivery,
  type ReceiverKind,
} from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzSelectModule } from 'ng-zorro-antd/select';
import { debounceTime, of, switchMap, timer } from 'rxjs';
import { Api } from '../api/api';
import { sentenceOf } from '../api/problem-of';
import { counted, weight, WeightPipe } from '../look/figures';
import { SelectName } from '../look/select-name';
import { setFeature } from '../set/set.store';
import { callFailed } from '../shell/problems';
import { Deliveries } from './deliveries';
import { type DeliveryDraft, deliveryOf, FIRST_DRAFT } from './delivery-draft';
import { ChooseFolder } from '../arrive/choose-folder';
import { DeliveryList } from './delivery-list';
import { handOverActions, handOverFeature } from './hand-over.store';
import { ReceiverForm } from './receiver-form';

const WAYS: readonly { id: DeliveryDraft['way']; name: string; what: string }[] = [
  { id: 'folder', name: 'Folder', what: 'A folder of the machine that runs Rundle; each copy is checked by its hash' },
  { id: 'zip', name: 'ZIP', what: 'One file, to be downloaded' },
  { id: 'web', name: 'Web space', what: 'By WebDAV or SFTP; only what has changed is sent' },
  { id: 'mail', name: 'Mail', what: 'Attached to messages, as many as the receiver’s limit asks for' },
];

const LAYOUTS: Record<GalleryLayout, string> = { grid: 'a grid', rows: 'rows of equal height', column: 'one column with text' };

const STAND_IN: Record<ReceiverKind, string> = {
  webdav: 'the made-up web space',
  sftp: 'the made-up web space by SFTP',
  smtp: 'the made-up mail server',
};

/** How long a change has to rest until it is asked what would go out, ms. */
const PREVIEW_MS = 250;

/** A delivery is put together, said beforehand, and begun; those of the set stand below. */
@Component({
  selector: 'rd-deliver',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, NzButtonModule, NzSelectModule, WeightPipe, ChooseFolder, DeliveryList, ReceiverForm, SelectName],
  templateUrl: './deliver.html',
  styleUrl: './deliver.less',
})
export class Deliver {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly deliveries = inject(Deliveries);
  protected readonly ways = WAYS;
  protected readonly layouts = GALLERY_LAYOUTS.map((id) => ({ id, name: LAYOUTS[id] }));
  protected readonly words = Object.entries(MAIL_WORDS).map(([word, means]) => ({ word, means }));
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly selected = this.store.selectSignal(setFeature.selectSelected);
  protected readonly presets = this.store.selectSignal(handOverFeature.selectPresets);
  private readonly receivers = this.store.selectSignal(handOverFeature.selectReceivers);
  protected readonly standIns = this.store.selectSignal(handOverFeature.selectStandIns);

  protected readonly draft = linkedSignal<string, DeliveryDraft>({
    source: computed(() => this.set()?.id ?? ''),
    computation: (setId) => ({ ...FIRST_DRAFT, ...readDraft(setId) }),
  });
  protected readonly title = computed(() => this.draft().title || (this.set()?.title ?? ''));
  /** The web space that is chosen; the first one, until another is. */
  protected readonly webId = computed(() => {
    const there = this.webSpaces().map(({ id }) => id);
    return there.includes(this.draft().webId) ? this.draft().webId : (there[0] ?? '');
  });
  /** The mail server that is chosen; empty: none, the mail program. */
  protected readonly mailId = computed(() => (this.mailServers().some(({ id }) => id === this.draft().mailId) ? this.draft().mailId : ''));
  protected readonly isGallery = computed(() => this.draft().as === 'gallery' && this.draft().way !== 'mail');
  protected readonly webSpaces = computed(() => (this.receivers() ?? []).filter(({ receiver }) => receiver.kind !== 'smtp'));
  protected readonly mailServers = computed(() => (this.receivers() ?? []).filter(({ receiver }) => receiver.kind === 'smtp'));
  /** The receiver that is being changed; `new`: one that is being added. */
  protected readonly editing = signal<string | null>(null);
  protected readonly edited = computed(() => (this.receivers() ?? []).find(({ id }) => id === this.editing()) ?? null);
  protected readonly offered = computed((): { kind: ReceiverKind; name: string }[] => {
    if (this.standIns()?.why !== null) return [];
    const added = (this.receivers() ?? []).filter(({ isStandIn }) => isStandIn).map(({ receiver }) => receiver.kind);
    const kinds: readonly ReceiverKind[] = this.draft().way === 'mail' ? ['smtp'] : ['webdav', 'sftp'];
    return kinds.filter((kind) => !added.includes(kind)).map((kind) => ({ kind, name: STAND_IN[kind] }));
  });

  /** What has been put together, or what is missing. */
  protected readonly wish = computed(() =>
    deliveryOf({ ...this.draft(), title: this.title(), webId: this.webId(), mailId: this.mailId() }, this.selected()),
  );
  protected readonly missing = computed(() => {
    const wish = this.wish();
    return typeof wish === 'string' ? wish : null;
  });
  private readonly list = this.store.selectSignal(handOverFeature.selectDeliveries);
  private readonly over = computed(() => (this.list() ?? []).filter((delivery) => !isOpenDelivery(delivery)).length);
  private readonly previewed = rxResource({
    // Anew when something has been delivered: it lies there from then on.
    params: () => ({ setId: this.set()?.id, wish: this.wish(), over: this.over() }),
    stream: ({ params: { setId, wish } }) =>
      setId === undefined || typeof wish === 'string'
        ? of(null)
        : timer(PREVIEW_MS).pipe(
            debounceTime(0),
            switchMap(() => this.api.previewDelivery({ setId, body: wish })),
          ),
  });
  protected readonly preview = computed(() => (this.previewed.hasValue() ? this.previewed.value() : null));
  protected readonly problem = computed(() => {
    const error = this.previewed.error();
    return error ? sentenceOf(error.cause ?? error) : (this.preview()?.problem?.message ?? null);
  });
  protected readonly figures = computed(() => {
    const preview = this.preview();
    if (!preview) return '';
    const { files, made, bytes, unchanged, messages } = preview;
    // The words in which the delivery will be told, too.
    const whole = [filesInWords(files, made), weight(bytes), ...(messages === null ? [] : [`in ${counted(messages, 'message')}`])].join(
      ', ',
    );
    return unchanged ? `${whole}; ${unchanged} lie there already` : whole;
  });
  protected readonly sending = signal(false);
  protected readonly snippet = signal<string | null>(null);
  protected readonly said = signal('');

  constructor() {
    this.store.dispatch(handOverActions.receiversWanted());
    // Nothing that was typed is lost by leaving the page.
    effect(() => {
      const setId = this.set()?.id;
      if (setId) sessionStorage.setItem(keyOf(setId), JSON.stringify(this.draft()));
    });
  }

  protected change(part: Partial<DeliveryDraft>): void {
    this.draft.update((draft) => ({ ...draft, ...part }));
    this.snippet.set(null);
  }

  protected togglePreset(id: string): void {
    const all = this.presets().map((preset) => preset.id);
    const now = this.draft().presetIds.length ? this.draft().presetIds : all;
    const next = now.includes(id) ? now.filter((one) => one !== id) : [...now, id];
    this.change({ presetIds: next.length === all.length ? [] : next });
  }

  protected isChosen(id: string): boolean {
    const { presetIds } = this.draft();
    return presetIds.length === 0 || presetIds.includes(id);
  }

  protected choose(field: 'webId' | 'mailId', id: string): void {
    this.change(field === 'webId' ? { webId: id } : { mailId: id });
  }

  protected addStandIn(kind: ReceiverKind): void {
    this.api.addStandIn({ body: { kind } }).subscribe({
      next: ({ id }) => {
        this.change(kind === 'smtp' ? { mailId: id } : { webId: id });
        this.store.dispatch(handOverActions.receiversWanted());
      },
      error: (error: unknown) => this.store.dispatch(callFailed({ what: 'It could not be added', sentence: sentenceOf(error) })),
    });
  }

  protected receiverSaved(id: string): void {
    this.editing.set(null);
    if (id) this.choose(this.draft().way === 'mail' ? 'mailId' : 'webId', id);
    this.store.dispatch(handOverActions.receiversWanted());
  }

  protected send(): void {
    const wish = this.wish();
    if (typeof wish === 'string') return;
    this.sending.set(true);
    this.deliveries.start(wish).subscribe({ complete: () => this.sending.set(false) });
  }

  protected writeSnippet(base: string): void {
    const [wish, setId] = [this.wish(), this.set()?.id];
    const delivery: NewDelivery | null = typeof wish === 'string' ? null : wish;
    if (!delivery || setId === undefined) return;
    this.api.writeSnippet({ setId, body: { delivery, base } }).subscribe({
      next: ({ html }) => {
        this.snippet.set(html);
        void navigator.clipboard.writeText(html).then(
          () => this.said.set('Copied: paste it into your page.'),
          () => this.said.set('The browser does not let this page copy: take it from below.'),
        );
      },
      error: (error: unknown) => this.store.dispatch(callFailed({ what: 'The HTML could not be written', sentence: sentenceOf(error) })),
    });
  }
}

const keyOf = (setId: string): string => `rundle.delivery.${setId}`;

function readDraft(setId: string): Partial<DeliveryDraft> {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(setId)) ?? '{}') as Partial<DeliveryDraft>;
  } catch {
    return {};
  }
}
