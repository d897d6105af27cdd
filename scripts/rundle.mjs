// @ts-check
import { installPackages } from './setup/packages.mjs';
import { bundlePrograms } from './setup/bundle.mjs';

await installPackages();
await bundlePrograms();
await import('../dist/rundle.js');
