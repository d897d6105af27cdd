import '@angular/compiler';
import { describe, expect, it } from 'vitest';
import { type DeliveryDraft, deliveryOf, FIRST_DRAFT } from './delivery-draft';

const of = (part: Partial<DeliveryDraft>, selected: string[] = []) => deliveryOf({ ...FIRST_DRAFT, ...part }, selected);
const ID = '5c0de000-0000-4000-8000-000000000001';

describe('a delivery that is put together', () => {
  it('says what is missing or wrong, field by field', () => {
    expect(of({ way: 'folder', path: 'relative' })).toMatch(/^Folder: a full path/);
    expect(of({ way: 'web' })).toBe('Choose a web space, or add one.');
    expect(of({ way: 'web', webId: ID, folder: 'a/../b' })).toMatch(/^Folder on the web space/);
    expect(of({ way: 'zip', as: 'gallery', title: ' ' })).toBe('Heading: write down what the page is called.');
    expect(of({ way: 'mail' })).toBe('To: write down at least one address.');
    expect(of({ way: 'mail', to: 'desk@quay.example, nobody' })).toBe('To: “nobody” is no e-mail address.');
    expect(of({ way: 'mail', to: 'desk@quay.example', limit: 'ten' })).toBe('Limit: a number from 0.05 to 100 MB.');
    expect(of({ way: 'zip', onlySelected: true })).toMatch(/^No picture is selected/);
  });

  it('is what is sent, with what was written for other ways left aside', () => {
    const mail = of({ way: 'mail', as: 'gallery', path: 'x', to: 'desk@quay.example;a@b.example', limit: '2,5', onlySelected: true }, [ID]);
    expect(mail).toMatchObject({
      way: { kind: 'mail', receiverId: null, to: ['desk@quay.example', 'a@b.example'], mostBytes: 2_500_000 },
      content: { masterIds: [ID] },
      gallery: null,
    });
    expect(of({ way: 'web', webId: ID, folder: '/spring/', as: 'gallery', title: 'Spring' })).toMatchObject({
      way: { kind: 'web', folder: 'spring', removesOld: false },
      gallery: { layout: 'rows', title: 'Spring' },
    });
    expect(of({ way: 'folder', path: '/srv/x/' })).toMatchObject({ way: { kind: 'folder', path: '/srv/x' }, content: { masterIds: [] } });
  });
});
