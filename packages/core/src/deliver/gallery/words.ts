/** What the page itself says to a visitor, in the order in which it is written down below. */
const KINDS = [
  'previous',
  'next',
  'close',
  'zoom',
  'fullScreen',
  'download',
  /** `{n}` stands for how many there are. */
  'downloadAll',
  'chapters',
  /** What a picture is called that nothing is told of; `{n}` stands for its number. */
  'picture',
  'notLoaded',
] as const;
export type GalleryWords = Record<(typeof KINDS)[number], string>;

const list = (words: string): GalleryWords => {
  const all = words.split('|');
  return Object.fromEntries(KINDS.map((kind, at) => [kind, all[at]!])) as GalleryWords;
};

/** By language (BCP 47). */
const WORDS: Record<string, GalleryWords> = {
  en: list(
    'Previous picture|Next picture|Close|Zoom|Full screen|Download this picture|Download all {n} pictures|Chapters|Picture {n}|This picture could not be loaded.',
  ),
  da: list(
    'Forrige billede|Næste billede|Luk|Zoom|Fuld skærm|Hent dette billede|Hent alle {n} billeder|Afsnit|Billede {n}|Billedet kunne ikke hentes.',
  ),
  de: list(
    'Voriges Bild|Nächstes Bild|Schließen|Vergrößern|Vollbild|Dieses Bild herunterladen|Alle {n} Bilder herunterladen|Kapitel|Bild {n}|Dieses Bild konnte nicht geladen werden.',
  ),
  es: list(
    'Imagen anterior|Imagen siguiente|Cerrar|Ampliar|Pantalla completa|Descargar esta imagen|Descargar las {n} imágenes|Capítulos|Imagen {n}|No se ha podido cargar esta imagen.',
  ),
  fr: list(
    'Image précédente|Image suivante|Fermer|Agrandir|Plein écran|Télécharger cette image|Télécharger les {n} images|Chapitres|Image {n}|Cette image n’a pas pu être chargée.',
  ),
  it: list(
    'Immagine precedente|Immagine successiva|Chiudi|Ingrandisci|Schermo intero|Scarica questa immagine|Scarica tutte le {n} immagini|Capitoli|Immagine {n}|Non è stato possibile caricare questa immagine.',
  ),
  nb: list(
    'Forrige bilde|Neste bilde|Lukk|Forstørr|Fullskjerm|Last ned dette bildet|Last ned alle {n} bildene|Kapitler|Bilde {n}|Bildet kunne ikke lastes.',
  ),
  nl: list(
    'Vorige foto|Volgende foto|Sluiten|Vergroten|Volledig scherm|Deze foto downloaden|Alle {n} foto’s downloaden|Hoofdstukken|Foto {n}|Deze foto kon niet worden geladen.',
  ),
  pt: list(
    'Imagem anterior|Imagem seguinte|Fechar|Ampliar|Ecrã inteiro|Transferir esta imagem|Transferir as {n} imagens|Capítulos|Imagem {n}|Não foi possível carregar esta imagem.',
  ),
  sv: list(
    'Föregående bild|Nästa bild|Stäng|Förstora|Helskärm|Hämta den här bilden|Hämta alla {n} bilder|Kapitel|Bild {n}|Bilden kunde inte hämtas.',
  ),
};

/** Languages in which the page has words of its own, in the order of their codes. */
export const GALLERY_LANGUAGES: readonly string[] = Object.keys(WORDS);

/** Languages that a page can be marked with beside these; its buttons are English then. */
export const OTHER_LANGUAGES = [
  'en-GB',

  'bg',
  'ca',
  'cs',
  'cy',
  'el',
  'et',
  'eu',
  'fi',
  'ga',
  'gl',
  'hr',
  'hu',
  'is',
  'lt',
  'lv',
  'pl',
  'ro',
  'sk',
  'sl',
  'tr',
  'uk',
] as const;

/** @param language BCP 47, such as `pt-BR` */
export const hasOwnWords = (language: string): boolean => base(language) in WORDS;

/** The words of a language; English ones where there are none. */
export const galleryWords = (language: string): GalleryWords => WORDS[base(language)] ?? WORDS['en']!;

const base = (language: string): string => language.split('-')[0]!;
