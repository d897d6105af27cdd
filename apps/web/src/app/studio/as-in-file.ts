import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { fillContact, fillRights, type StudioDetails } from '@rundle/core';

/** What a field is called by the IPTC Photo Metadata Standard 2023.1. */
const FIELDS = [
  ['creator', 'Creator'],
  ['jobTitle', 'Creator’s Job Title'],
  ['copyright', 'Copyright Notice'],
  ['credit', 'Credit Line'],
  ['terms', 'Rights Usage Terms'],
  ['email', 'Contact: Email Address(es)'],
  ['website', 'Contact: Web URL(s)'],
  ['phone', 'Contact: Phone Number(s)'],
  ['address', 'Contact: Address'],
  ['city', 'Contact: City'],
  ['region', 'Contact: State/Province'],
  ['postalCode', 'Contact: Postal Code'],
  ['country', 'Contact: Country'],
  ['webStatement', 'Web Statement of Rights'],
] as const;

const NO_CONTACT = { jobTitle: null, phone: null, address: null, city: null, region: null, postalCode: null, country: null };
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
        <dt>{{ row.name }}</dt>
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
    const said: Readonly<Record<string, string | null>> = {
      ...rights,
      ...Object.fromEntries(fillContact({ contact: NO_CONTACT }, details)),
    };
    return FIELDS.map(([key, name]) => ({ name, value: said[key] ?? null }));
  });
}
