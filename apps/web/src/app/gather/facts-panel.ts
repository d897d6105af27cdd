import {
  type AfterViewInit,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  output,
  viewChild,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { isOfDecidedPage, type MasterDetail, type MasterFacts } from '@rundle/core';
import { NzButtonModule } from 'ng-zorro-antd/button';
import { NzIconModule } from 'ng-zorro-antd/icon';
import { NzSkeletonModule } from 'ng-zorro-antd/skeleton';
import { Api } from '../api/api';
import { weight } from '../look/figures';
import { Remarks } from '../look/remarks';
import { setFeature } from '../set/set.store';
import { PageChoice } from './page-choice';
import { PictureTone } from '../tone/picture-tone';
import { TonedPicture } from '../tone/toned-picture';

interface Group {
  title: string;
  facts: [string, string][];
}

/** Everything that is known of one picture, and the picture large. */
@Component({
  selector: 'rd-facts-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NzButtonModule, NzIconModule, NzSkeletonModule, PageChoice, PictureTone, Remarks, TonedPicture],
  template: `
    <dialog #dialog aria-labelledby="facts-title" (cancel)="$event.preventDefault(); closed.emit()">
      <div class="picture">
        @if (ready(); as picture) {
          <rd-toned-picture
            [masterId]="picture.id"
            [name]="picture.fileName"
            [decisions]="picture.overrides"
            [content]="picture.content ?? null"
          />
        } @else if (isBeingRead()) {
          <span class="soft" role="status">Being read …</span>
        }
      </div>
      <section>
        <div class="head">
          <h2 id="facts-title">{{ master()?.fileName ?? 'Facts of a picture' }}</h2>
          @if (ready()) {
            <button nz-button nzSize="small" title="The key C" (click)="crop.emit()">Crop</button>
          }
          <button nz-button nzType="text" aria-label="The picture before" title="The picture before: arrow left" (click)="moved.emit(-1)">
            <nz-icon nzType="left" />
          </button>
          <button nz-button nzType="text" aria-label="The next picture" title="The next picture: arrow right" (click)="moved.emit(1)">
            <nz-icon nzType="right" />
          </button>
          <button nz-button nzType="text" aria-label="Back to the sheet" title="Back to the sheet: Esc" autofocus (click)="closed.emit()">
            <nz-icon nzType="close" />
          </button>
        </div>
        @if (ready(); as picture) {
          <rd-picture-tone [master]="picture" />
        }
        @if (detail.error()) {
          <p>The facts could not be loaded. Close this and open it again.</p>
        } @else if (detail.value(); as master) {
          @if (pages() > 1) {
            <rd-page-choice [master]="this.master()!" [pages]="pages()" [isBeingRead]="isBeingRead()" />
          }
          <rd-remarks [findings]="master.findings" [error]="master.problem" />
          @for (group of groups(); track group.title) {
            <h3>{{ group.title }}</h3>
            <dl>
              @for (fact of group.facts; track fact[0]) {
                <dt>{{ fact[0] }}</dt>
                <dd>{{ fact[1] }}</dd>
              }
            </dl>
          }
        } @else {
          <nz-skeleton [nzActive]="true" [nzParagraph]="{ rows: 12 }" />
        }
      </section>
    </dialog>
  `,
  styles: `
    dialog {
      position: fixed;
      inset: 0;
      display: grid;
      grid-template-columns: minmax(0, 1fr) 420px;
      width: 100%;
      max-width: none;
      height: 100%;
      max-height: none;
      margin: 0;
      padding: 0;
      color: var(--ink);
      background: var(--paper);
      border: 0;
    }
    .picture {
      display: grid;
      place-items: center;
      min-height: 0;
      padding: 24px;
      background: var(--surround);
    }
    rd-picture-tone {
      margin: 8px 0 2px;
    }
    section {
      overflow-y: auto;
      padding: 14px 22px 30px;
      border-left: 1px solid var(--line);
    }
    .head {
      display: flex;
      align-items: center;
      gap: 2px;
      h2 {
        flex: 1;
        overflow-wrap: anywhere;
      }
    }
    h3 {
      margin: 16px 0 3px;
      font-size: 14px;
      color: var(--petrol-deep);
    }
    dl {
      display: grid;
      grid-template-columns: 118px minmax(0, 1fr);
      gap: 1px 12px;
      margin: 0;
      font-size: 14px;
    }
    dt {
      color: var(--ink-soft);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class FactsPanel implements AfterViewInit {
  readonly masterId = input.required<string>();
  readonly closed = output();
  readonly crop = output();
  /** By how many pictures to go on. */
  readonly moved = output<1 | -1>();
  private readonly dialog = viewChild.required<ElementRef<HTMLDialogElement>>('dialog');
  private readonly api = inject(Api);
  private readonly masters = inject(Store).selectSignal(setFeature.selectMasters);
  protected readonly master = computed(() => this.masters().find(({ id }) => id === this.masterId()) ?? null);
  /** Also from the moment in which another page is chosen until the server says what it is. */
  protected readonly isBeingRead = computed(() => {
    const master = this.master();
    return (
      master !== null && (master.state === 'arriving' || (master.content !== null && !isOfDecidedPage(master.content, master.overrides)))
    );
  });
  /** Anew once its content is another, or has been read. */
  private readonly asked = computed(() => [this.masterId(), this.master()?.content, this.master()?.state].join(' '));
  protected readonly detail = rxResource({
    params: () => this.asked(),
    stream: () => this.api.getMaster({ masterId: this.masterId() }),
  });

  /** As a dialog the browser keeps the focus inside and the page behind it inert. */
  ngAfterViewInit(): void {
    this.dialog().nativeElement.showModal();
  }

  /** Of a picture that could not be read nothing is made. */
  protected readonly ready = computed(() => (this.master()?.state === 'ready' && !this.isBeingRead() ? this.master() : null));
  /** How many there are to choose from; 1 while that is not known. */
  protected readonly pages = computed(() => {
    const facts = this.master() && this.detail.hasValue() ? this.detail.value().facts : null;
    return facts?.format === 'tiff' ? facts.pages : 1;
  });
  /** Of another page nothing is known until that has been read. */
  protected readonly groups = computed(() => {
    const isTurning = this.pages() > 1 && this.isBeingRead();
    return this.detail.hasValue() && !isTurning ? groupsOf(this.detail.value()) : [];
  });
}

function groupsOf({ facts, bytes, stars, tags }: MasterDetail): Group[] {
  const marks: Group = { title: 'Marks', facts: said(['Stars', stars ? String(stars) : null], ['Tags', tags.join(', ')]) };
  if (!facts) return [{ title: 'File', facts: said(['Weight', weight(bytes)]) }, marks];
  const { rights } = facts;
  const groups: Group[] = [
    {
      title: 'File',
      facts: said(
        ['Type', facts.format.toUpperCase()],
        ['Weight', weight(facts.bytes)],
        ['Quality', facts.jpegQuality === null ? null : `about ${facts.jpegQuality}, by its tables`],
        ['Pages', facts.pages > 1 ? String(facts.pages) : null],
      ),
    },
    {
      title: 'Picture',
      facts: said(
        ['Size', `${facts.width} × ${facts.height} px, ${((facts.width * facts.height) / 1e6).toFixed(1)} megapixels`],
        ['Orientation', facts.orientation === 1 ? 'upright as stored' : `turned by its tag (${facts.orientation})`],
        ['Bits', `${facts.bits} per channel, ${facts.channels} channels`],
        ['Transparency', facts.alpha ? 'yes' : null],
      ),
    },
    {
      title: 'Colour',
      facts: said(['Profile', facts.profile ?? 'none'], ['Model', MODELS[facts.colourModel]], ['Outside sRGB', outside(facts)]),
    },
    {
      title: 'Rights',
      facts: said(
        ...([
          ['Creator', rights.creator],
          ['Copyright', rights.copyright],
          ['Credit', rights.credit],
          ['Terms', rights.terms],
          ['Mail', rights.email],
          ['Web', rights.website],
          ['Statement', rights.webStatement],
        ] as [string, string | null][]),
      ),
    },
    { title: 'Description', facts: said(['Title', facts.title], ['Caption', facts.caption], ['Keywords', facts.keywords.join(', ')]) },
    { title: 'Capture', facts: said(['Time', facts.captured?.replace('T', ' ') ?? null], ['Camera', facts.camera], ['Lens', facts.lens]) },
    { title: 'Place', facts: said(['GPS', facts.gps ? 'says where it was made' : 'none']) },
    { title: 'Rating', facts: said(['In the file', facts.rating === null ? null : `${facts.rating} of 5`]) },
    marks,
  ];
  return groups.filter((group) => group.facts.length > 0);
}

const MODELS: Record<MasterFacts['colourModel'], string> = { rgb: 'RGB', grey: 'grey', cmyk: 'CMYK', lab: 'Lab' };

const outside = ({ outsideSrgb }: MasterFacts): string | null =>
  outsideSrgb && `${(outsideSrgb.share * 100).toFixed(1)} % of the pixels, ${visibly(outsideSrgb.mean)}`;

/** How a colour difference looks side by side (common practice, no source). @param difference CIEDE2000 */
const visibly = (difference: number): string =>
  difference < 1 ? 'too little to be seen' : difference < 3 ? 'seen side by side' : 'plain to see';

/** Facts that there are. */
const said = (...facts: [string, string | null][]): [string, string][] =>
  facts.flatMap(([name, value]) => (value ? [[name, value] as [string, string]] : []));
