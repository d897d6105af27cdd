import '@angular/compiler';
import { describe, expect, it } from 'vitest';
import { type DeliveryDraft, deliveryOf, FIRST_DRAFT, isProblem } from './delivery-draft';

const of = (part: Partial<DeliveryDraft>, selected: string[] = []) => deliveryOf({ ...FIRST_DRAFT, ...part }, selected);
const ID = '5c0de000-0000-4000-8000-000000000001';

describe('a delivery that is put together', () => {
  it('says what is missing or wrong, and in which field', () => {
    const problem = (part: Partial<DeliveryDraft>) => {
      const made = of(part);
      return isProblem(made) ? [made.field, made.isMissing, made.sentence] : made;
    };
    expect(problem({ way: 'folder' })).toEqual(['path', true, 'Choose a folder, or write its full path down.']);
    expect(problem({ way: 'folder', path: 'relative' })).toEqual(['path', false, expect.stringMatching(/^Folder: a full path/)]);
    expect(problem({ way: 'web' })).toEqual(['web', true, 'Choose a web space, or add one.']);
    expect(problem({ way: 'web', webId: ID, folder: 'a/../b' })).toEqual(['folder', false, expect.stringMatching(/^Folder on the web/)]);
    expect(problem({ way: 'zip', as: 'gallery', title: ' ' })).toEqual(['title', true, 'Write down what the page is called.']);
    expect(problem({ way: 'zip', as: 'gallery', title: 'x', link: 'javascript:alert(1)' })).toEqual(['link', false, expect.any(String)]);
    expect(problem({ way: 'mail' })).toEqual(['to', true, 'Write down at least one address.']);
    expect(problem({ way: 'mail', to: 'desk@quay.example, nobody' })).toEqual(['to', false, '“nobody” is no e-mail address.']);
    expect(problem({ way: 'mail', to: 'desk@quay.example', limit: 'ten' })).toEqual(['limit', false, 'A number from 0.05 to 100 MB.']);
    expect(problem({ way: 'zip', onlySelected: true })).toEqual(['selected', true, expect.stringMatching(/^No picture is selected/)]);
  });

  it('is what is sent, with what was written for other ways left aside', () => {
    const mail = of({ way: 'mail', as: 'gallery', path: 'x', to: 'desk@quay.example;a@b.example', limit: '2,5', onlySelected: true }, [ID]);
    expect(mail).toMatchObject({
      way: { kind: 'mail', receiverId: null, to: ['desk@quay.example', 'a@b.example'], mostBytes: 2_500_000 },
      content: { masterIds: [ID] },
      gallery: null,
    });
    expect(of({ way: 'web', webId: ID, folder: '/spring/', as: 'gallery', title: 'Spring', link: 'quay.example' })).toMatchObject({
      way: { kind: 'web', folder: 'spring', removesOld: false },
      gallery: { layout: 'rows', title: 'Spring', link: 'https://quay.example' },
    });
    expect(of({ way: 'folder', path: '/srv/x/' })).toMatchObject({ way: { kind: 'folder', path: '/srv/x' }, content: { masterIds: [] } });
  });
});
