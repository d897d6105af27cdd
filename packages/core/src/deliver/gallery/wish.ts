import * as z from 'zod';
import { Id } from '../../api/sets';
import { flag, line, text } from '../../preset/fields';

export const GALLERY_LAYOUTS = ['grid', 'rows', 'column'] as const;
export type GalleryLayout = (typeof GALLERY_LAYOUTS)[number];

export const GALLERY_LOOKS = ['device', 'white', 'grey', 'black'] as const;
export type GalleryLook = (typeof GALLERY_LOOKS)[number];

export const GALLERY_CHAPTERS = ['none', 'tag', 'day'] as const;
export type GalleryChapters = (typeof GALLERY_CHAPTERS)[number];

export const GALLERY_DOWNLOADS = ['none', 'each', 'all'] as const;
export type GalleryDownloads = (typeof GALLERY_DOWNLOADS)[number];

/** What a visitor can go to from the page. */
const WebAddress = z.union([
  z.literal(''),
  z.url({ protocol: /^https?$/, error: 'a web address such as https://studio.example' }).max(500),
]);

/** A page on which the pictures are looked at. */
export const GalleryWish = z
  .strictObject({
    layout: z.enum(GALLERY_LAYOUTS).meta({ description: 'A grid; rows of equal height; one column with text' }),
    look: z
      .enum(GALLERY_LOOKS)
      .default('device')
      .meta({ description: 'Colour of the page; device: white or black, as the visitor’s device asks' }),
    title: line(200, 1),
    language: z
      .string()
      .regex(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/, { error: 'a language such as "en" or "nl"' })
      .default('en'),
    text: text(4000).default(''),
    photographer: line(200).default(''),
    link: WebAddress.default('').meta({ description: 'Where the photographer’s name leads; empty: nowhere' }),
    footer: text(1000).default(''),
    cover: z
      .union([z.literal('first'), Id])
      .nullable()
      .default(null)
      .meta({ description: 'Title picture: the first one, or a master; null: none' }),
    chapters: z
      .enum(GALLERY_CHAPTERS)
      .default('none')
      .meta({ description: 'By the first tag of each picture, or by the day on which it was taken' }),
    downloads: z
      .enum(GALLERY_DOWNLOADS)
      .default('none')
      .meta({ description: 'Which a visitor is offered: none; each picture; all of them, too' }),
    captions: flag().default(true).meta({ description: 'Title, caption and credit, as far as the preset keeps them' }),
    texts: z
      .record(Id, line(300, 1))
      .refine((texts) => Object.keys(texts).length <= 5000, { error: 'at most 5000 texts' })
      .default({})
      .meta({ description: 'What pictures without a title of their own are called on the page, by master' }),
  })
  .meta({ id: 'GalleryWish' });
export type GalleryWish = z.infer<typeof GalleryWish>;
