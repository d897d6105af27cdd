import type { Routes } from '@angular/router';
import { oncePainted } from './shell/bound-for';

const pages: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'sets' },
  { path: 'sets', title: 'Sets', loadComponent: () => import('./sets/sets-page').then((m) => m.SetsPage) },
  {
    path: 'sets/:setId',
    loadComponent: () => import('./set/set-page').then((m) => m.SetPage),
    children: [
      { path: '', pathMatch: 'full', redirectTo: 'gather' },
      { path: 'gather', title: 'Gather', loadComponent: () => import('./gather/gather-page').then((m) => m.GatherPage) },
      { path: 'vet', title: 'Vet', loadComponent: () => import('./vet/vet-page').then((m) => m.VetPage) },
      { path: 'crop', title: 'Crop', loadComponent: () => import('./crop/crop-page').then((m) => m.CropPage) },
      { path: 'sheet', title: 'Sheet of prints', loadComponent: () => import('./sheet/sheet-page').then((m) => m.SheetPage) },
      { path: 'plan', title: 'Plan', loadComponent: () => import('./plan/plan-page').then((m) => m.PlanPage) },
      { path: 'proof', title: 'Proof', loadComponent: () => import('./proof/proof-page').then((m) => m.ProofPage) },
      {
        path: 'hand-over',
        title: 'Hand over',
        loadComponent: () => import('./hand-over/hand-over-page').then((m) => m.HandOverPage),
      },
    ],
  },
  { path: 'presets', title: 'Presets', loadComponent: () => import('./library/library-page').then((m) => m.LibraryPage) },
  { path: 'presets/:presetId', title: 'Preset', loadComponent: () => import('./presets/preset-page').then((m) => m.PresetPage) },
  { path: 'runs', title: 'Runs', loadComponent: () => import('./runs/runs-page').then((m) => m.RunsPage) },
  { path: 'runs/:runId', title: 'Record of a run', loadComponent: () => import('./runs/run-page').then((m) => m.RunPage) },
  {
    path: 'standing-orders',
    title: 'Standing orders',
    loadComponent: () => import('./standing-orders/standing-orders-page').then((m) => m.StandingOrdersPage),
  },
  { path: 'watermarks', title: 'Watermarks', loadComponent: () => import('./watermarks/watermarks-page').then((m) => m.WatermarksPage) },
  { path: 'web-versions', title: 'Web versions', loadComponent: () => import('./at-once/at-once-page').then((m) => m.AtOncePage) },
  { path: 'workers', title: 'Workers', loadComponent: () => import('./workers/workers-page').then((m) => m.WorkersPage) },
  { path: 'storage', title: 'Storage', loadComponent: () => import('./storage/storage-page').then((m) => m.StoragePage) },
  { path: 'studio', title: 'Studio', loadComponent: () => import('./studio/studio-page').then((m) => m.StudioPage) },
  { path: '**', title: 'Not found', loadComponent: () => import('./shell/not-found').then((m) => m.NotFound) },
];

export const routes: Routes = [{ path: '', canActivateChild: [oncePainted], children: pages }];
