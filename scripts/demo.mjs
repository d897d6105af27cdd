// @ts-check
// Makes the demo masters in demo/masters (npm run demo), or elsewhere: npm run demo -- FOLDER [SCALE]
import { bundlePrograms } from './setup/bundle.mjs';
import { installPackages } from './setup/packages.mjs';

await installPackages();
await bundlePrograms();
await import(new URL('../dist/demo.js', import.meta.url).href);
