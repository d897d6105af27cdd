// @ts-check
// Makes the demo masters in demo/masters (npm run demo), or elsewhere: npm run demo -- FOLDER [SCALE]
import { bundlePrograms } from './setup/bundle.mjs';
import { installPackages } from './setup/packages.mjs';

await installPackages();
await bundlePrograms();
await import('../dist/demo.js');
