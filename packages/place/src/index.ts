export * from './held-folder';
export * from './opened';
export * from './put-file';
export * from './stored-zip';
