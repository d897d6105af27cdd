import { CLASSES, WIDEST_COLUMN, windowsFrom } from './slots';

/** Colours of a look. Text keeps 4.5 to 1 against its page (WCAG 2.2, 1.4.3), figures and captions too. */
const LOOKS = {
  white: { page: '#fdfdfc', ink: '#22262a', soft: '#5a6066' },
  grey: { page: '#666666', ink: '#ffffff', soft: '#e9e9e9' },
  black: { page: '#121314', ink: '#eceae4', soft: '#a9aca8' },
} as const;

const colours = (look: keyof typeof LOOKS): string =>
  Object.entries(LOOKS[look])
    .map(([name, value]) => `--${name}: ${value};`)
    .join(' ');

/** The pictures, in any page. */
export const galleryStyle = (): string => `/* The pictures: a grid, rows of equal height, or one column with text. */
.look-device,
.look-white { ${colours('white')} }
.look-grey { ${colours('grey')} }
.look-black { ${colours('black')} }
@media (prefers-color-scheme: dark) {
  .look-device { ${colours('black')} }
}
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
  font-weight: inherit;
}
.picture-page small {
  font-size: 13px;
  color: var(--soft);
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
    ({ gap, columns }, at) => `${windowsFrom(at + 1)} {
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
/* The large view: opaque, in the colours of the page, the picture within margins. */
.picture-view {
  --pswp-bg: var(--page);
  --pswp-icon-color: var(--ink);
  --pswp-icon-color-secondary: var(--page);
  --pswp-icon-stroke-color: var(--page);
  --pswp-error-text-color: var(--ink);
  --pswp-placeholder-bg: transparent;
}
.picture-view .pswp__counter {
  text-shadow: none;
  opacity: 1;
}
.picture-view .pswp__button:focus-visible {
  outline: 2px solid var(--ink);
  outline-offset: -4px;
}
.picture-view .words {
  position: absolute;
  right: 0;
  bottom: 0;
  left: 0;
  display: flex;
  align-items: center;
  justify-content: center;
  height: 60px;
  padding: 0 20px;
  font: 16px/1.35 'Source Sans 3', system-ui, sans-serif;
  text-align: center;
  color: var(--ink);
  pointer-events: none;
}
@media print {
  .look-device,
  .look-white,
  .look-grey,
  .look-black {
    --page: #fff;
    --ink: #000;
    --soft: #333;
  }
  .picture-page li {
    break-inside: avoid;
  }
  .picture-view {
    display: none;
  }
}
`;
