/*
 * The demo scenario, invented from end to end: the studio Lanternfold delivers an evening of lanterns and small boats in
 * the harbour town of Emberquay. No person, place or thing in it exists.
 */

export const SET_TITLE = 'Lantern evening at Emberquay';

export const STUDIO = {
  creator: 'Orla Vessby',
  copyrightHolder: 'Studio Lanternfold',
  credit: 'Orla Vessby / Studio Lanternfold',
  terms: 'For the festival of Emberquay, web and print, until the next festival.',
  email: 'post@lanternfold.example',
  website: 'https://lanternfold.example',
  webStatement: 'https://lanternfold.example/rights',
};

/** How a master's colours and pixels are stored. */
export type Kind = 'srgb' | 'adobe-rgb' | 'romm-tiff' | 'cmyk' | 'untagged';

export interface DemoMaster {
  fileName: string;
  /** Picture in `base/`. */
  base: string;
  /** Long edge in px. */
  long: number;
  kind: Kind;
  /** JPEG quality 1-100. */
  quality: number;
  /** Minutes after sunset at which it was taken. */
  minute: number;
  stars: number;
  title: string;
  keywords: string[];
  gps?: true;
  /** Stored lying and turned by its EXIF tag: 6 or 8. */
  turned?: 6 | 8;
  withoutCredit?: true;
  /** Cut off after this share of its bytes. */
  cutAt?: number;
}

const sea = ['harbour', 'boats', 'evening'];

/** 24 masters in the order of the set. */
export const MASTERS: readonly DemoMaster[] = [
  {
    fileName: 'LFS_0412.jpg',
    base: 'regatta',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: -190,
    stars: 4,
    title: 'The last race of the day',
    keywords: ['regatta', 'sails'],
    gps: true,
  },
  {
    fileName: 'LFS_0418.jpg',
    base: 'regatta-wide',
    long: 5184,
    kind: 'adobe-rgb',
    quality: 94,
    minute: -186,
    stars: 3,
    title: 'Red sail',
    keywords: ['regatta', 'sails'],
  },
  {
    fileName: 'LFS_0431.jpg',
    base: 'yellow-sail',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: -171,
    stars: 5,
    title: 'Yellow sail',
    keywords: ['regatta', 'sails', 'hero'],
    turned: 8,
  },
  {
    fileName: 'LFS_0455.jpg',
    base: 'jetty-planks',
    long: 8256,
    kind: 'srgb',
    quality: 90,
    minute: -120,
    stars: 3,
    title: 'Planks and rope',
    keywords: ['jetty', 'rope'],
  },
  {
    fileName: 'LFS_0456.jpg',
    base: 'mooring-rope',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: -118,
    stars: 2,
    title: 'Mooring rope',
    keywords: ['rope', 'detail'],
    withoutCredit: true,
  },
  {
    fileName: 'workbench, retouched.tif',
    base: 'workbench',
    long: 4200,
    kind: 'romm-tiff',
    quality: 100,
    minute: -95,
    stars: 4,
    title: 'The lantern maker’s bench',
    keywords: ['workshop'],
  },
  {
    fileName: 'LFS_0471.jpg',
    base: 'paint-pots',
    long: 4500,
    kind: 'srgb',
    quality: 92,
    minute: -91,
    stars: 3,
    title: 'Pots of colour',
    keywords: ['workshop', 'detail'],
  },
  {
    fileName: 'LFS_0474.jpg',
    base: 'brush-jar',
    long: 4500,
    kind: 'adobe-rgb',
    quality: 92,
    minute: -90,
    stars: 2,
    title: 'Brushes',
    keywords: ['workshop', 'detail'],
    turned: 6,
  },
  {
    fileName: 'lantern_cutout_print.jpg',
    base: 'lantern-product',
    long: 3600,
    kind: 'cmyk',
    quality: 95,
    minute: -80,
    stars: 4,
    title: 'Paper lantern, red',
    keywords: ['lantern', 'product'],
  },
  {
    fileName: 'LFS_0502.jpg',
    base: 'calm-evening',
    long: 6000,
    kind: 'adobe-rgb',
    quality: 94,
    minute: -6,
    stars: 5,
    title: 'Before the lanterns',
    keywords: [...sea, 'hero'],
    gps: true,
  },
  {
    fileName: 'LFS_0503.jpg',
    base: 'boat-alone',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: -4,
    stars: 4,
    title: 'One boat',
    keywords: sea,
  },
  {
    fileName: 'LFS_0519.jpg',
    base: 'masthead',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: 9,
    stars: 4,
    title: 'Masthead',
    keywords: ['lanterns', 'mast'],
    turned: 8,
    gps: true,
  },
  {
    fileName: 'LFS_0520.jpg',
    base: 'mast-lanterns',
    long: 6000,
    kind: 'adobe-rgb',
    quality: 93,
    minute: 11,
    stars: 5,
    title: 'Lanterns in the rigging',
    keywords: ['lanterns', 'mast', 'hero'],
  },
  {
    fileName: 'Emberquay waterfront (wide).jpg',
    base: 'waterfront-panorama',
    long: 12000,
    kind: 'srgb',
    quality: 90,
    minute: 18,
    stars: 3,
    title: 'The waterfront',
    keywords: ['panorama', ...sea],
  },
  {
    fileName: 'harbour at dusk – final.tif',
    base: 'harbour-dusk',
    long: 4200,
    kind: 'romm-tiff',
    quality: 100,
    minute: 22,
    stars: 5,
    title: 'The harbour at dusk',
    keywords: [...sea, 'lanterns', 'hero'],
  },
  {
    fileName: 'LFS_0544.jpg',
    base: 'dusk-rowing-boat',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: 25,
    stars: 4,
    title: 'Ready to row',
    keywords: sea,
  },
  {
    fileName: 'LFS_0552.jpg',
    base: 'lanterns-close',
    long: 6000,
    kind: 'adobe-rgb',
    quality: 94,
    minute: 31,
    stars: 5,
    title: 'Lit',
    keywords: ['lanterns', 'hero'],
  },
  {
    fileName: 'LFS_0553.jpg',
    base: 'lantern-pair',
    long: 5184,
    kind: 'adobe-rgb',
    quality: 93,
    minute: 32,
    stars: 3,
    title: 'Hanging',
    keywords: ['lanterns'],
  },
  {
    fileName: 'LFS_0560.jpg',
    base: 'quay-steps',
    long: 8256,
    kind: 'srgb',
    quality: 90,
    minute: 38,
    stars: 4,
    title: 'Quay steps',
    keywords: ['steps', 'lanterns'],
  },
  {
    fileName: 'LFS_0561.jpg',
    base: 'steps-close',
    long: 4500,
    kind: 'untagged',
    quality: 92,
    minute: 40,
    stars: 3,
    title: 'Up the steps',
    keywords: ['steps', 'lanterns'],
  },
  {
    fileName: 'LFS_0583.jpg',
    base: 'night-lights',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: 74,
    stars: 4,
    title: 'Points of light',
    keywords: ['night', 'lanterns'],
    gps: true,
  },
  {
    fileName: 'LFS_0584.jpg',
    base: 'night-reflections',
    long: 4500,
    kind: 'srgb',
    quality: 92,
    minute: 75,
    stars: 2,
    title: 'Reflections',
    keywords: ['night'],
    cutAt: 0.6,
  },
  {
    fileName: 'phone-0007.jpg',
    base: 'fog-lamps',
    long: 1200,
    kind: 'srgb',
    quality: 85,
    minute: 560,
    stars: 1,
    title: 'The morning after',
    keywords: ['fog'],
  },
  {
    fileName: 'LFS_0601.jpg',
    base: 'fog-morning',
    long: 6000,
    kind: 'srgb',
    quality: 92,
    minute: 566,
    stars: 4,
    title: 'Fog',
    keywords: ['fog', 'boats'],
  },
];
