import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { fillContact, fillRights, type StudioDetails } from '@rundle/core';

/** What a field is called by the IPTC Photo Metadata Standard 2023.1, and where in a file it stands. */
const FIELDS = [
  ['creator', 'Creator', 'XMP dc:creator, IIM 2:80, EXIF Artist'],
  ['jobTitle', 'Creator’s Job Title', 'XMP photoshop:AuthorsPosition, IIM 2:85'],
  ['copyright', 'Copyright Notice', 'XMP dc:rights, IIM 2:116, EXIF Copyright'],
  ['credit', 'Credit Line', 'XMP photoshop:Credit, IIM 2:110'],
  ['terms', 'Rights Usage Terms', 'XMP xmpRights:UsageTerms'],
  ['email', 'Contact: Email Address(es)', 'XMP Iptc4xmpCore:CiEmailWork'],
  ['website', 'Contact: Web URL(s)', 'XMP Iptc4xmpCore:CiUrlWork'],
  ['phone', 'Contact: Phone Number(s)', 'XMP Iptc4xmpCore:CiTelWork'],
  ['address', 'Contact: Address', 'XMP Iptc4xmpCore:CiAdrExtadr'],
  ['city', 'Contact: City', 'XMP Iptc4xmpCore:CiAdrCity'],
  ['region', 'Contact: State/Province', 'XMP Iptc4xmpCore:CiAdrRegion'],
  ['postalCode', 'Contact: Postal Code', 'XMP Iptc4xmpCore:CiAdrPcode'],
  ['country', 'Contact: Country', 'XMP Iptc4xmpCore:CiAdrCtry'],
  ['webStatement', 'Web Statement of Rights', 'XMP xmpRights:WebStatement'],
] as const;

const NO_RIGHTS = { creator: null, copyright: null, credit: null, terms: null, email: null, website: null, webStatement: null };

/** The studio’s details as they will stand in a file that says nothing of its own. */
@Component({
  selector: 'rd-as-in-file',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>As it will stand in a file</h2>
    <p class="soft">In a picture of {{ year }} that says nothing of its own, by the names of the IPTC Photo Metadata Standard.</p>
    <dl>
      @for (row of rows(); track row.name) {
        <dt [title]="row.where">{{ row.name }}</dt>
        <dd [class.soft]="!row.value">{{ row.value ?? 'nothing' }}</dd>
      }
    </dl>
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 210px minmax(0, 1fr);
      gap: 4px 16px;
      margin: 12px 0 16px;
    }
    dt {
      color: var(--ink-soft);
      font-weight: 400;
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class AsInFile {
  readonly details = input<StudioDetails | null>(null);
  protected readonly year = new Date().getFullYear();
  protected readonly rows = computed(() => {
    const details = this.details();
    if (!details) return [];
    const rights = fillRights({ rights: NO_RIGHTS, captured: `${this.year}-01-01T00:00:00` }, details);
    const said: Readonly<Record<string, string | null>> = { ...rights, ...Object.fromEntries(fillContact({ contact: [] }, details)) };
    return FIELDS.map(([key, name, where]) => ({ name, where, value: said[key] ?? null }));
  });
}
