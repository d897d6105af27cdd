import { defineConfig } from 'vitest/config';

// Long enough for a machine that does other work as well, and stands still now and then: a test fails by what it sees, not by how long that took.
// All files of a project share what they import: to load it anew for each took half of the time.
const node = {
  environment: 'node',
  isolate: false,
  testTimeout: 900_000,
  hookTimeout: 900_000,
  expect: { poll: { timeout: 60_000 } },
} as const;

export default defineConfig({
  test: {
    projects: [
      { test: { ...node, name: 'core', include: ['packages/core/src/**/*.test.ts', 'apps/web/src/**/*.test.ts', 'scripts/*.test.ts'] } },
      { test: { ...node, name: 'render', include: ['packages/render/test/**/*.test.ts'] } },
      {
        test: {
          ...node,
          name: 'server',
          include: [
            'apps/server/test/**/*.test.ts',
            'apps/worker/test/**/*.test.ts',
            'apps/courier/test/**/*.test.ts',
            'packages/place/test/**/*.test.ts',
            'packages/store/test/**/*.test.ts',
            'packages/watch/test/**/*.test.ts',
            'packages/transport/test/**/*.test.ts',
            'stand-ins/test/**/*.test.ts',
          ],
          fileParallelism: false,
        },
      },
      {
        test: {
          ...node,
          name: 'browser',
          include: ['e2e/test/**/*.test.ts'],
          globalSetup: 'e2e/src/shared-pictures.ts',
          fileParallelism: false,
        },
      },
    ],
  },
});
