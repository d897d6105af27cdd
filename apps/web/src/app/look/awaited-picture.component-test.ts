import { ChangeDetectionStrategy, Component, provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { expect, it } from 'vitest';
import { AwaitedPicture } from './awaited-picture';

@Component({
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [AwaitedPicture],
  template: `<img #picture="rdAwaited" alt="" [rdAwaited]="address()" />
    <p>{{ picture.isThere() }} {{ picture.hasFailed() }}</p>`,
})
class Page {
  readonly address = signal('a.jpg');
}

it('a picture by its address is away until its own has come, also after another', async () => {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(Page);
  const page = fixture.nativeElement as HTMLElement;
  const image = page.querySelector('img')!;
  const says = async () => {
    await fixture.whenStable();
    return [image.getAttribute('src'), image.classList.contains('awaited'), page.querySelector('p')!.textContent];
  };
  expect(await says()).toEqual(['a.jpg', true, 'false false']);
  image.dispatchEvent(new Event('load'));
  expect(await says()).toEqual(['a.jpg', false, 'true false']);
  fixture.componentInstance.address.set('b.jpg');
  expect(await says()).toEqual(['b.jpg', true, 'false false']);
  image.dispatchEvent(new Event('error'));
  expect(await says()).toEqual(['b.jpg', true, 'false true']);
});
