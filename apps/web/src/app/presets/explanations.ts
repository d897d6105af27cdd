import type { Part } from '@rundle/core';

/** What a rung does, in two sentences, and a picture of it: two halves of one place of a demo picture, made by `npm run explain`. */
export interface Explanation {
  sentences: string;
  picture: { file: string; left: string; right: string } | null;
}

export const EXPLANATIONS: Readonly<Record<Part, Explanation>> = {
  applies: {
    sentences:
      'A preset can be for some pictures only: those with enough stars, or with one of the tags. The few best ones can so go to another folder at another size.',
    picture: { file: 'applies.webp', left: 'five stars: gets it', right: 'two stars: left as it is' },
  },
  size: {
    sentences:
      'The edge that is named becomes exactly that long, the other follows. Made smaller in linear light, small lights stay as bright as they were; in the picture’s own gamma it is as most are used to.',
    picture: { file: 'light.webp', left: 'own gamma', right: 'linear light' },
  },
  tone: {
    sentences:
      'A few values for pictures that are finished, but a little too dark or too flat where they will be seen. They are worked out before colours are converted; what one picture needs beside the others is decided with that picture, and added.',
    picture: null,
  },
  colour: {
    sentences:
      'Browsers and phones expect sRGB; colours of another space look dull where the profile is not read. Saturated light that sRGB cannot hold is brought to its edge.',
    picture: { file: 'colour.webp', left: 'converted to sRGB', right: 'Adobe RGB, profile not read' },
  },
  sharpen: {
    sentences:
      'Making a picture smaller makes it soft, and sharpening on the finished pixels brings edges back. Radius is how far from an edge it reaches, amount how strong it is; too much draws halos: bright and dark lines.',
    picture: { file: 'sharpen.webp', left: 'not sharpened', right: 'amount 0.7, radius 0.8' },
  },
  mark: {
    sentences:
      'A watermark lies over the finished picture, as large as its share of the short edge says, so that it looks the same on every picture. A border is added outside, and makes the file that much larger.',
    picture: { file: 'mark.webp', left: 'as it is', right: 'with a watermark' },
  },
  print: {
    sentences:
      'A large print can be divided into panels that hang side by side, each a file of its own. On canvas, edges are added outside the picture, which bend round the frame: nothing of the picture itself is lost there.',
    picture: null,
  },
  file: {
    sentences:
      'Halved chroma (4:2:0) keeps colour half as finely as brightness: lighter, and seldom seen but on saturated edges. A progressive JPEG appears coarse at once and then fine, a baseline one from top to bottom; both look the same in the end.',
    picture: { file: 'chroma.webp', left: 'chroma 4:4:4', right: 'chroma 4:2:0' },
  },
  metadata: {
    sentences:
      'What is written inside the file goes with it: who made it, what it shows, and where it was taken. What is removed cannot be read by anybody any more.',
    picture: { file: 'metadata.webp', left: 'with its credit inside', right: 'without: nobody can tell whose' },
  },
  name: {
    sentences:
      'The name is put together from parts, and has to tell small from large, since a thumbnail does not. A web-safe name has no spaces, accents or signs, which some servers refuse.',
    picture: { file: 'name.webp', left: 'LFS_0412_480.jpg', right: 'LFS_0412_4000.jpg' },
  },
  folder: {
    sentences:
      'Each preset has a folder of its own, so that a web and a print version never mix. Replacing is right for delivering again; keeping both never loses anything.',
    picture: { file: 'folder.webp', left: 'web/LFS_0502_850.jpg', right: 'print/LFS_0502_print.jpg' },
  },
};
