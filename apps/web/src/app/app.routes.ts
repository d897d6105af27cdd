import type { Routes } from '@angular/router';

export const routes: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'sets' },
  { path: 'sets', title: 'Sets – Rundle', loadComponent: () => import('./sets/sets-page').then((m) => m.SetsPage) },
  {
    path: 'sets/:setId',
    loadComponent: () => import('./set/set-page').then((m) => m.SetPage),
    children: [
      { path: '', pathMatch: 'full', redirectTo: 'gather' },
      { path: 'gather', title: 'Gather – Rundle', loadComponent: () => import('./gather/gather-page').then((m) => m.GatherPage) },
      { path: 'vet', title: 'Vet – Rundle', loadComponent: () => import('./vet/vet-page').then((m) => m.VetPage) },
      { path: 'plan', title: 'Plan – Rundle', loadComponent: () => import('./plan/plan-page').then((m) => m.PlanPage) },
      {
        path: 'hand-over',
        title: 'Hand over – Rundle',
        loadComponent: () => import('./hand-over/hand-over-page').then((m) => m.HandOverPage),
      },
    ],
  },
  { path: 'presets', title: 'Presets – Rundle', loadComponent: () => import('./presets/presets-page').then((m) => m.PresetsPage) },
  { path: 'presets/:presetId', title: 'Preset – Rundle', loadComponent: () => import('./presets/preset-page').then((m) => m.PresetPage) },
  { path: 'studio', title: 'Studio – Rundle', loadComponent: () => import('./studio/studio-page').then((m) => m.StudioPage) },
  { path: '**', loadComponent: () => import('./shell/not-found').then((m) => m.NotFound) },
];
