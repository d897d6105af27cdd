// @ts-check
import { installPackages } from './setup/packages.mjs';
import { bundlePrograms } from './setup/bundle.mjs';

await installPackages();
await bundlePrograms();
await import(new URL('../dist/rundle.js', import.meta.url).href);
