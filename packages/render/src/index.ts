export * from './pool/pool';
export * from './proxy';
export { endExifTool } from './read/exiftool';
export * from './read/facts';
export * from './render-master';
export { typesByPrograms } from './write/programs';
export type { FeedDoor } from './sample/feed-trip';
export type { SampleAnswer, SampleOrder } from './sample/process';
export * from './sample/sampler';
