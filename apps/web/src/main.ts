import { bootstrapApplication } from '@angular/platform-browser';
import * as z from 'zod';
import { appConfig } from './app/app.config';
import { routes } from './app/app.routes';
import { loadAhead } from './app/shell/load-ahead';
import { Shell } from './app/shell/shell';

// The page's Content-Security-Policy forbids making code from text, which Zod would otherwise try for speed.
z.config({ jitless: true });

loadAhead(routes, location.pathname);
bootstrapApplication(Shell, appConfig).catch((error: unknown) => console.error(error));
