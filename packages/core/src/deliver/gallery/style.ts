import { CLASSES, WIDEST, WIDEST_COLUMN } from './slots';

const from = (at: number): string => `@media (min-width: ${CLASSES[at]!.from}px)`;

/** The margins of the page: those that the widths of the pictures were reckoned with. */
export const pageStyle = (): string => `/* The page around the pictures. */
:root {
  color-scheme: light dark;
  --page: #fbfaf7;
  --ink: #22262a;
  --soft: #5a6066;
}
@media (prefers-color-scheme: dark) {
  :root {
    --page: #17191b;
    --ink: #eceae4;
    --soft: #a9aca8;
  }
}
body {
  margin: 0;
  font: 16px/1.5 system-ui, sans-serif;
  color: var(--ink);
  background: var(--page);
}
main {
  box-sizing: border-box;
  max-width: ${WIDEST}px;
  margin: 0 auto;
  padding: 24px ${CLASSES[0].margin}px 48px;
}
h1 {
  margin: 0 0 8px;
  font-size: 28px;
  font-weight: 600;
  line-height: 1.25;
}
header p {
  max-width: 42em;
  margin: 0 0 12px;
  color: var(--soft);
}
${CLASSES.slice(1)
  .map(
    ({ margin }, at) => `${from(at + 1)} {
  main {
    padding: 32px ${margin}px 64px;
  }
}`,
  )
  .join('\n')}
`;

/** The pictures, in any page. */
export const galleryStyle = (): string => `/* The pictures: a grid, rows of equal height, or one column with text. */
.picture-page {
  display: flex;
  flex-wrap: wrap;
  gap: ${CLASSES[0].gap}px;
  margin: 16px 0 0;
  padding: 0;
  list-style: none;
  --gap: ${CLASSES[0].gap}px;
  --columns: ${CLASSES[0].columns};
}
.picture-page figure {
  margin: 0;
}
.picture-page a {
  display: block;
}
.picture-page a:focus-visible {
  outline: 3px solid;
  outline-offset: 2px;
}
.picture-page img {
  display: block;
  width: 100%;
  height: auto;
  object-fit: cover;
  background-size: cover;
}
.picture-page figcaption {
  padding: 6px 0 10px;
  font-size: 14px;
  line-height: 1.4;
  overflow-wrap: anywhere;
}
.picture-page figcaption > * {
  display: block;
}
.picture-page strong {
  font-weight: 600;
}
.picture-page small {
  font-size: 13px;
  opacity: 0.8;
}
.picture-page.grid {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
}
.picture-page.grid a {
  position: relative;
  aspect-ratio: 1;
}
.picture-page.grid img {
  position: absolute;
  inset: 0;
  margin: auto;
}
.picture-page.grid .upright img {
  width: auto;
  height: 100%;
}
.picture-page.rows > li {
  flex: none;
  width: calc((100% - var(--gaps-0) * var(--gap)) * var(--share-0));
}
.picture-page.column {
  display: block;
  max-width: ${WIDEST_COLUMN}px;
  margin-inline: auto;
}
.picture-page.column > li {
  margin-bottom: 28px;
}
.picture-page.column a {
  width: calc(100% * var(--share-0));
}
${CLASSES.slice(1)
  .map(
    ({ gap, columns }, at) => `${from(at + 1)} {
  .picture-page {
    gap: ${gap}px;
    --gap: ${gap}px;
    --columns: ${columns};
  }
  .picture-page.rows > li {
    width: calc((100% - var(--gaps-${at + 1}) * var(--gap)) * var(--share-${at + 1}));
  }
  .picture-page.column > li {
    margin-bottom: 44px;
  }
  .picture-page.column a {
    width: calc(100% * var(--share-${at + 1}));
  }
}`,
  )
  .join('\n')}
@media print {
  .picture-page li {
    break-inside: avoid;
  }
}
`;

/** Opens a picture large, by mouse, touch and keyboard; without it, its link does. */
export const galleryScript = (): string => `'use strict';
(function () {
  if (!window.PhotoSwipeLightbox || !window.PhotoSwipe) return;
  var lightbox = new window.PhotoSwipeLightbox({ gallery: '.picture-page', children: 'a', pswpModule: window.PhotoSwipe });
  lightbox.on('uiRegister', function () {
    lightbox.pswp.ui.registerElement({
      name: 'picture-caption',
      order: 9,
      isButton: false,
      appendTo: 'root',
      onInit: function (element) {
        element.style.cssText = 'position:absolute;left:0;right:0;bottom:0;padding:12px 20px;text-align:center;color:#fff;background:rgba(0,0,0,.6);pointer-events:none';
        lightbox.pswp.on('change', function () {
          var slide = lightbox.pswp.currSlide.data.element;
          var caption = slide && slide.parentNode.querySelector('figcaption');
          var parts = caption ? Array.prototype.map.call(caption.children, function (part) { return part.textContent; }) : [];
          element.textContent = parts.join(' \u00b7 ');
          element.hidden = !caption;
        });
      },
    });
  });
  lightbox.init();
})();
`;
