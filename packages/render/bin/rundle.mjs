#!/usr/bin/env node
// @ts-check
// The command line as it was built last: scripts call it thousands of times, so that nothing is looked up here that was set up before.
import { existsSync } from 'node:fs';
import module from 'node:module';

// Where Node can (from 22.1 on), it keeps what it has compiled.
/** @type {{ enableCompileCache?: () => unknown }} */ (module).enableCompileCache?.();
const built = new URL('../../../dist/rundle.js', import.meta.url);
await import((existsSync(built) ? built : new URL('../../../scripts/rundle.mjs', import.meta.url)).href);
