import { TestBed } from '@angular/core/testing';
import { Title } from '@angular/platform-browser';
import { expect, it } from 'vitest';
import { PageTitle } from './page-title';
import { TabCount } from './tab-count';

it('the tab tells how far a run is, and is as before when it has ended', () => {
  document.head.insertAdjacentHTML('beforeend', '<link rel="icon" href="favicon.svg">');
  const icon = document.querySelector('link[rel="icon"]')!;
  const tab = TestBed.inject(TabCount);
  const title = TestBed.inject(Title);
  TestBed.inject(PageTitle).setAbout('Lanterns');
  tab.show({ past: 12, of: 48 });
  expect(title.getTitle()).toBe('12 of 48 – Lanterns – Rundle');
  expect(decodeURIComponent(icon.getAttribute('href')!)).toContain('width="6" height="4"');
  tab.show(null);
  expect([title.getTitle(), icon.getAttribute('href')]).toEqual(['Lanterns – Rundle', 'favicon.svg']);
  icon.remove();
});
