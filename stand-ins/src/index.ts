export * from './feed/app';
export * from './feed/wall';
export * from './mail/box';
export * from './start';
