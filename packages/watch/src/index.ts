export * from './content';
export * from './folder-watch';
