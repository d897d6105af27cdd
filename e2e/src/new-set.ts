import type { MasterPage, SetDetail } from '@rundle/core';
import { setTimeout as wait } from 'node:timers/promises';
import type { Application } from './application';
import type { Browser } from './browser';

/** A call of the HTTP interface that has to succeed. */
export async function call<T>(application: Application, method: string, path: string, body?: object): Promise<T> {
  // A connection of its own: one that is kept for the next call may be ended by the server just when that begins, more than a minute later.
  const headers = { 'Content-Type': 'application/json', Connection: 'close' };
  const response = await fetch(`${application.url}${path}`, { method, headers, ...(body ? { body: JSON.stringify(body) } : {}) });
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
  return (response.status === 204 ? null : await response.json()) as T;
}

/**
 * Makes a set of the pictures of a folder of the machine, below RUNDLE_ROOTS, and waits until all have been read, so that a test
 * begins with a set of its own.
 * @returns its id
 */
export async function newSet(application: Application, title: string, folder: string): Promise<string> {
  const { id } = await call<SetDetail>(application, 'POST', '/api/sets', { title });
  await call(application, 'POST', `/api/sets/${id}/masters/from-machine`, { path: folder, deeper: true });
  await allRead(application, id);
  return id;
}

/** Waits until all pictures of a set have been read. */
export async function allRead(application: Application, setId: string): Promise<void> {
  for (;;) {
    const { masters, total } = await call<MasterPage>(application, 'GET', `/api/sets/${setId}/masters`);
    if (total > 0 && masters.every(({ state }) => state !== 'arriving')) return;
    await wait(200);
  }
}

/** The same, and opens a page of it. */
export async function openNewSet(
  application: Application,
  browser: Browser,
  title: string,
  folder: string,
  step = 'gather',
): Promise<string> {
  const id = await newSet(application, title, folder);
  await browser.driver.get(`${application.url}/sets/${id}/${step}`);
  await browser.says(/\d pictures/);
  return id;
}
