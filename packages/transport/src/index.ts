export * from './destination';
export * from './mail-server';
export * from './trust';
export * from './try-receiver';
export * from './web-space';
