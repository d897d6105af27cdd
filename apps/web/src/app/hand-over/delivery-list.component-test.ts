import { provideZonelessChangeDetection } from '@angular/core';
import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { provideStore, Store } from '@ngrx/store';
import type { Delivery, DeliveryDetail } from '@rundle/core';
import { of } from 'rxjs';
import { beforeEach, describe, expect, it } from 'vitest';
import { Api } from '../api/api';
import { Deliveries } from './deliveries';
import { DeliveryList } from './delivery-list';
import { handOverActions, handOverFeature } from './hand-over.store';

let fixture: ComponentFixture<DeliveryList>;
let done: unknown[][];
let detail: Partial<DeliveryDetail>;

beforeEach(() => {
  done = [];
  detail = {};
  const noted =
    (what: string) =>
    (...how: unknown[]) =>
      void done.push([what, ...how]);
  const deliveries = Object.fromEntries(['cancel', 'resume', 'repeat', 'decide'].map((what) => [what, noted(what)]));
  TestBed.configureTestingModule({
    providers: [
      provideZonelessChangeDetection(),
      provideStore({ [handOverFeature.name]: handOverFeature.reducer }),
      {
        provide: Api,
        useValue: { getDelivery: ({ deliveryId }: { deliveryId: string }) => of({ ...delivery({ id: deliveryId }), ...detail }) },
      },
      { provide: Deliveries, useValue: deliveries },
    ],
  });
  fixture = TestBed.createComponent(DeliveryList);
});

const delivery = (more: Partial<Delivery> = {}): Delivery => ({
  id: 'd1',
  setId: 's',
  way: { kind: 'web', receiverId: 'r1', folder: '', removesOld: false },
  content: { presetIds: [], masterIds: [], layout: 'folders', manifest: false },
  gallery: null,
  state: 'done',
  createdAt: '2026-06-20T21:40:00Z',
  finishedAt: null,
  receiver: 'Quay Pages (https://quay.example)',
  shownAt: null,
  counts: { files: 4, made: 0, bytes: 4000, checked: 0, sent: 0, sentBytes: 0, kept: 0, left: 0, failed: 0, removed: 0 },
  findings: [],
  messages: [],
  problem: null,
  stopping: false,
  renewed: 0,
  ...more,
});
const counts = (more: Partial<Delivery['counts']>) => ({ ...delivery().counts, ...more });

async function shown(...list: Delivery[]): Promise<HTMLElement> {
  TestBed.inject(Store).dispatch(handOverActions.deliveriesLoaded({ deliveries: list }));
  await fixture.whenStable();
  return fixture.nativeElement as HTMLElement;
}
const acts = (page: HTMLElement) => [...page.querySelectorAll('.acts button, .acts a')].map((one) => one.textContent?.trim());
async function press(page: HTMLElement, words: string): Promise<void> {
  [...page.querySelectorAll<HTMLElement>('button')].find((one) => one.textContent?.trim() === words)!.click();
  await fixture.whenStable();
}
const sentence = (page: HTMLElement) => page.querySelector('.sentence')?.textContent;

describe('the list of deliveries', () => {
  it('tells how far one is, and lets it be cancelled, once', async () => {
    const sending = delivery({ state: 'sending', counts: counts({ sent: 1, sentBytes: 2000 }) });
    const page = await shown(sending);
    expect(sentence(page)).toBe('4 files, 4 KB: 1 of 4 sent');
    expect(page.querySelector('[role=progressbar]')?.getAttribute('aria-valuenow')).toBe('50');
    expect(acts(page)).toEqual(['Cancel', 'What happened']);
    await press(page, 'Cancel');
    expect(done).toEqual([['cancel', 'd1']]);
    await shown({ ...sending, stopping: true });
    expect(page.querySelector<HTMLButtonElement>('.acts button')!.disabled).toBe(true);
  });

  it('holds one that breaks the receiver’s rules until somebody decides, and says which files, and what to do', async () => {
    const finding = { code: 'house-heavy', severity: 'look', message: 'Heavier than 1 MB.' } as const;
    const findings = ['a', 'b', 'c', 'd'].map((name) => ({ path: `web/${name}.jpg`, finding }));
    const page = await shown(delivery({ state: 'held', findings }));
    expect(sentence(page)).toContain('waits for a decision about 4 files');
    expect(page.querySelectorAll('.findings li')).toHaveLength(1);
    expect(page.querySelector('.findings li')?.textContent?.trim()).toBe(
      'Heavier than 1 MB. (4 files: web/a.jpg, web/b.jpg, web/c.jpg …) Set a ceiling.',
    );
    expect(acts(page)).toEqual(['Leave these out', 'Send all the same', 'Cancel', 'What happened']);
    await press(page, 'Leave these out');
    await press(page, 'Send all the same');
    expect(done).toEqual([
      ['decide', 'd1', 'without'],
      ['decide', 'd1', 'all'],
    ]);
  });

  it('lets one that failed go on, and one that is done be opened where it is shown and delivered again', async () => {
    const problem = { code: 'not-reached', message: 'Quay Pages does not answer.' } as const;
    const failed = delivery({ id: 'd2', state: 'failed', problem, counts: counts({ sent: 3 }) });
    const page = await shown(failed, delivery({ shownAt: 'https://quay.example/', counts: counts({ sent: 4 }) }));
    expect([...page.querySelectorAll('.sentence')].map((one) => one.textContent)).toEqual([
      '4 files, 4 KB: 3 sent. Quay Pages does not answer.',
      '4 files, 4 KB: 4 sent',
    ]);
    expect(acts(page)).toEqual(['Go on', 'What happened', 'Open it', 'Deliver again', 'What happened']);
    await press(page, 'Go on');
    await press(page, 'Deliver again');
    expect(done).toEqual([
      ['resume', 'd2'],
      ['repeat', 'd1'],
    ]);
  });

  it('whose files have been made anew since goes on with these, or with the old ones, by one choice', async () => {
    const page = await shown(delivery({ state: 'cancelled', renewed: 3, counts: counts({ sent: 1 }) }));
    expect(page.querySelector('.acts')?.textContent).toContain('3 files have been made anew since.');
    expect(acts(page)).toEqual(['Go on with the new ones', 'Go on with the old ones', 'What happened']);
    await press(page, 'Go on with the new ones');
    await press(page, 'Go on with the old ones');
    expect(done).toEqual([
      ['resume', 'd1', 'renewed'],
      ['resume', 'd1'],
    ]);
  });

  it('offers the ZIP, and messages for a mail program, once they are there', async () => {
    const mail: Delivery['way'] = { kind: 'mail', receiverId: null, to: ['a@quay.example'], subject: 'S', text: '', mostBytes: 10e6 };
    const message = (number: number, sent: boolean) => ({ number, subject: 'S', files: 2, bytes: 2000, sent });
    const page = await shown(
      delivery({ id: 'z', way: { kind: 'zip' } }),
      delivery({ id: 'm', way: mail, state: 'sending', messages: [message(1, true), message(2, false)] }),
    );
    expect(acts(page)).toEqual(['Download', 'Deliver again', 'What happened', 'Cancel', 'Message 1, 2 KB', 'What happened']);
    expect([...page.querySelectorAll('a')].map((one) => one.getAttribute('href'))).toEqual([
      expect.stringContaining('/deliveries/z/'),
      expect.stringContaining('/deliveries/m/'),
    ]);
  });

  it('tells what happened, with the files that failed', async () => {
    const page = await shown(delivery());
    const problem = { code: 'disk-full', message: 'web/a.jpg: no room there.' } as const;
    detail = {
      log: [{ at: '2026-06-20T21:41:00Z', text: 'Begun: 4 files' }],
      files: [
        { path: 'web/a.jpg', bytes: 1000, state: 'failed', problem },
        { path: 'web/b.jpg', bytes: 1000, state: 'sent', problem: null },
      ],
    };
    await press(page, 'What happened');
    expect(page.querySelector('.log')?.textContent).toContain('Begun: 4 files');
    expect([...page.querySelectorAll('.findings li')].map((one) => one.textContent?.trim())).toEqual(['web/a.jpg: no room there.']);
    await press(page, 'Hide what happened');
    expect(page.querySelector('.log')).toBeNull();
  });
});
