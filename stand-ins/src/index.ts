export * from './feed/app';
export * from './feed/wall';
