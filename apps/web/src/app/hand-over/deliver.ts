import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { filesInWords, isOpenDelivery, MAIL_WORDS, type NewDelivery, type ReceiverKind, type StudioDetails } from '@rundle/core';
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
import { type DeliveryDraft, deliveryOf, type DraftField, type DraftProblem, FIRST_DRAFT, isProblem, webAddress } from './delivery-draft';
import { ChooseFolder } from '../arrive/choose-folder';
import { DeliveryList } from './delivery-list';
import { GalleryForm } from './gallery-form';
import { handOverActions, handOverFeature } from './hand-over.store';
import { ReceiverForm } from './receiver-form';

const WAYS: readonly { id: DeliveryDraft['way']; name: string; what: string }[] = [
  { id: 'folder', name: 'Folder', what: 'A folder of the machine that runs Rundle; each copy is checked by its hash' },
  { id: 'zip', name: 'ZIP', what: 'One file, to be downloaded' },
  { id: 'web', name: 'Web space', what: 'By WebDAV or SFTP; only what has changed is sent' },
  { id: 'mail', name: 'Mail', what: 'Attached to messages, as many as the receiver’s limit asks for' },
];

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
  imports: [FormsModule, NzButtonModule, NzSelectModule, WeightPipe, ChooseFolder, DeliveryList, GalleryForm, ReceiverForm, SelectName],
  templateUrl: './deliver.html',
  styleUrl: './deliver.less',
})
export class Deliver {
  private readonly api = inject(Api);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly store = inject(Store);
  private readonly deliveries = inject(Deliveries);
  protected readonly ways = WAYS;
  protected readonly words = Object.entries(MAIL_WORDS).map(([word, means]) => ({ word, means }));
  private readonly set = this.store.selectSignal(setFeature.selectSet);
  protected readonly selected = this.store.selectSignal(setFeature.selectSelected);
  protected readonly presets = this.store.selectSignal(handOverFeature.selectPresets);
  private readonly receivers = this.store.selectSignal(handOverFeature.selectReceivers);
  protected readonly standIns = this.store.selectSignal(handOverFeature.selectStandIns);

  /** What has been typed and chosen for the open set. */
  private readonly typed = linkedSignal<string, Partial<DeliveryDraft>>({
    source: computed(() => this.set()?.id ?? ''),
    computation: readDraft,
  });
  private readonly studio = rxResource({ stream: () => this.api.getStudio() });
  /** With what the studio and the set say of themselves, where nothing else has been typed. */
  protected readonly draft = computed((): DeliveryDraft => {
    const set = this.set();
    const studio = this.studio.hasValue() ? this.studio.value() : null;
    return { ...FIRST_DRAFT, title: set?.title ?? '', ...(studio && set ? aboutPhotographer(studio, set.rights) : {}), ...this.typed() };
  });
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
  protected readonly wish = computed(() => deliveryOf({ ...this.draft(), webId: this.webId(), mailId: this.mailId() }, this.selected()));
  /** The page of a gallery, wherever it is to go: what it looks like does not wait for that. */
  protected readonly gallery = computed((): NewDelivery | null => {
    const wish = this.isGallery() ? deliveryOf({ ...this.draft(), way: 'zip' }, this.selected()) : null;
    return wish && !isProblem(wish) ? wish : null;
  });
  /** Whether it was to go already: what is missing then is a fault, too. */
  protected readonly isTried = signal(false);
  protected readonly draftProblem = computed(() => {
    const wish = this.wish();
    return isProblem(wish) ? wish : null;
  });
  /** What is told at its field. */
  protected readonly fieldProblem = computed((): DraftProblem | null => {
    const problem = this.draftProblem();
    if (problem) return problem.isMissing && !this.isTried() ? null : problem;
    const refused = this.preview()?.problem;
    // What the machine says of the folder belongs to the folder.
    return refused && this.draft().way === 'folder' && refused.code !== 'nothing-there'
      ? { field: 'path', sentence: refused.message, isMissing: false }
      : null;
  });
  private readonly list = this.store.selectSignal(handOverFeature.selectDeliveries);
  private readonly over = computed(() => (this.list() ?? []).filter((delivery) => !isOpenDelivery(delivery)).length);
  private readonly previewed = rxResource({
    // Anew when something has been delivered: it lies there from then on.
    params: () => ({ setId: this.set()?.id, wish: this.wish(), over: this.over() }),
    stream: ({ params: { setId, wish } }) =>
      setId === undefined || isProblem(wish)
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
      if (setId) sessionStorage.setItem(keyOf(setId), JSON.stringify(this.typed()));
    });
  }

  protected change(part: Partial<DeliveryDraft>): void {
    this.typed.update((typed) => ({ ...typed, ...part }));
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
    this.isTried.set(true);
    const problem = this.draftProblem() ?? this.fieldProblem();
    if (problem || isProblem(wish)) {
      this.host.querySelector<HTMLElement>(FIELD_OF[problem!.field])?.focus();
      return;
    }
    this.sending.set(true);
    this.deliveries.start(wish).subscribe({ complete: () => this.sending.set(false) });
  }

  /** Opens the page as it will be. The window is opened by the press itself: later, a browser would take it for one that nobody asked for. */
  protected seeFirst(): void {
    const [gallery, setId] = [this.gallery(), this.set()?.id];
    if (!gallery || setId === undefined) return;
    const page = window.open('', '_blank');
    this.api.viewGallery({ setId, body: gallery }).subscribe({
      next: (view) => {
        if (page) page.location.href = view.page;
        else
          this.store.dispatch(
            callFailed({ what: 'The gallery could not be shown', sentence: 'The browser does not let this page open a window.' }),
          );
      },
      error: (error: unknown) => {
        page?.close();
        this.store.dispatch(callFailed({ what: 'The gallery could not be shown', sentence: sentenceOf(error) }));
      },
    });
  }

  protected fault(field: DraftField): string | null {
    const problem = this.fieldProblem();
    return problem?.field === field ? problem.sentence : null;
  }

  protected writeSnippet(base: string): void {
    const [delivery, setId] = [this.gallery(), this.set()?.id];
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

/** Where each field stands. */
const FIELD_OF: Record<DraftField, string> = {
  path: '#to-folder',
  web: '.receiver input',
  folder: '#web-folder',
  to: '#mail-to',
  limit: '#mail-limit',
  message: '#mail-text',
  title: '#gallery-title',
  text: '#gallery-text',
  link: '#gallery-link',
  gallery: '#gallery-title',
  selected: 'input[name=onlySelected]',
};

/** What a gallery says of its photographer, as the studio and the set have it. */
function aboutPhotographer(studio: StudioDetails, rights: StudioDetails): Pick<DeliveryDraft, 'photographer' | 'link' | 'footer'> {
  const of = (field: keyof StudioDetails) => rights[field] || studio[field];
  const link = webAddress(of('website'));
  const holder = of('copyrightHolder');
  return {
    photographer: of('creator'),
    link: URL.canParse(link) ? link : '',
    footer: [holder && `© ${new Date().getFullYear()} ${holder}`, of('terms')].filter(Boolean).join('. '),
  };
}

const keyOf = (setId: string): string => `rundle.delivery.${setId}`;

function readDraft(setId: string): Partial<DeliveryDraft> {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(setId)) ?? '{}') as Partial<DeliveryDraft>;
  } catch {
    return {};
  }
}
