import { GALLERY_FACES, type GalleryFace } from './files';
import { CLASSES, WIDEST, windowsFrom } from './slots';

/** Which letters a file has (the unicode-range of the packages that the faces come from). */
const LETTERS: Record<GalleryFace['letters'], string> = {
  latin:
    'U+0000-00FF, U+0131, U+0152-0153, U+02BB-02BC, U+02C6, U+02DA, U+02DC, U+0304, U+0308, U+0329, U+2000-206F, U+20AC, U+2122, U+2191, U+2193, U+2212, U+2215, U+FEFF, U+FFFD',
  'latin-ext':
    'U+0100-02BA, U+02BD-02C5, U+02C7-02CC, U+02CE-02D7, U+02DD-02FF, U+0304, U+0308, U+0329, U+1D00-1DBF, U+1E00-1E9F, U+1EF2-1EFF, U+2020, U+20A0-20AB, U+20AD-20C0, U+2113, U+2C60-2C7F, U+A720-A7FF',
};

/** A face that is not there in the first moment is not put in later: nothing moves once it is seen. */
const facesOf = (inStyle: ReadonlyMap<GalleryFace, string>): string =>
  GALLERY_FACES.map((face) => ({ ...face, source: inStyle.get(face) ?? face.path.replace('view/', '') }))
    .map(
      ({ source, family, letters }) => `@font-face {
  font-family: '${family}';
  font-display: optional;
  src: url('${source}') format('woff2');
  unicode-range: ${LETTERS[letters]};
}`,
    )
    .join('\n');

/**
 * The page around the pictures; its margins are those that the widths of the pictures were reckoned with.
 * @param inStyle faces as data addresses
 */
export const pageStyle = (inStyle: ReadonlyMap<GalleryFace, string>): string => `/* The page around the pictures. */
${facesOf(inStyle)}
body {
  margin: 0;
  font: 17px/1.55 'Source Sans 3', system-ui, sans-serif;
  color: var(--ink);
  background: var(--page);
}
main {
  box-sizing: border-box;
  max-width: ${WIDEST}px;
  margin: 0 auto;
  padding: ${CLASSES[0].margin}px ${CLASSES[0].margin}px 48px;
}
h1,
h2 {
  font-family: 'Source Serif 4', Georgia, serif;
  font-weight: 400;
  line-height: 1.2;
  text-wrap: balance;
}
h1 {
  margin: 28px 0 8px;
  font-size: 34px;
}
h2 {
  margin: 44px 0 16px;
  font-size: 24px;
}
a {
  color: inherit;
  text-underline-offset: 3px;
  text-decoration-thickness: 1px;
}
a:focus-visible {
  outline: 3px solid;
  outline-offset: 3px;
}
.cover img {
  display: block;
  width: 100%;
  height: auto;
  max-height: 68vh;
  object-fit: cover;
  background-size: cover;
}
header p {
  max-width: 42em;
  margin: 0 0 14px;
}
header .by,
header .all span,
footer {
  color: var(--soft);
}
header .all a {
  display: inline-block;
  margin-right: 10px;
  padding: 6px 0;
}
nav ul {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin: 18px 0;
  padding: 0;
  list-style: none;
}
nav a {
  display: inline-block;
  padding: 4px 0;
}
footer {
  box-sizing: border-box;
  max-width: ${WIDEST}px;
  margin: 0 auto;
  padding: 0 ${CLASSES[0].margin}px 40px;
  font-size: 15px;
}
footer p {
  max-width: 48em;
  margin: 0 0 10px;
}
${CLASSES.slice(1)
  .map(
    ({ margin }, at) => `${windowsFrom(at + 1)} {
  main {
    padding: ${margin}px ${margin}px 64px;
  }
  h1 {
    margin-top: 40px;
    font-size: 46px;
  }
  h2 {
    margin-top: 60px;
    font-size: 30px;
  }
  footer {
    padding-inline: ${margin}px;
  }
}`,
  )
  .join('\n')}
@media print {
  body {
    font-size: 10pt;
  }
  main {
    padding: 0;
  }
  nav,
  header .all {
    display: none;
  }
  .cover img {
    max-height: 12cm;
  }
}
`;
