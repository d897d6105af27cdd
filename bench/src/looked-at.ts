import { join } from 'node:path';
import type { SetSummary } from '@rundle/core';
import { Application } from '../../e2e/src/application';
import { ROOT } from './measure';

/** A master of 24 megapixels in a studio that runs, with all pictures read. */
export interface LookedAt {
  setId: string;
  masterId: string;
  call: (method: string, path: string, body?: object) => Promise<Response>;
}

/** Does something with it, and ends the studio. */
export async function withLookedAt<T>(act: (looked: LookedAt) => Promise<T>): Promise<T> {
  const application = await Application.start(join(ROOT, 'demo/masters'));
  try {
    const call = async (method: string, path: string, body?: object) => {
      const answer = await fetch(`${application.url}${path}`, {
        method,
        headers: { 'content-type': 'application/json' },
        ...(body ? { body: JSON.stringify(body) } : {}),
      });
      if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
      return answer;
    };
    const [set] = (await (await call('GET', '/api/sets')).json()) as SetSummary[];
    const list = async () =>
      ((await (await call('GET', `/api/sets/${set!.id}/masters`)).json()) as { masters: { id: string; fileName: string; state: string }[] })
        .masters;
    while ((await list()).some(({ state }) => state === 'arriving')) await new Promise((resolve) => setTimeout(resolve, 500));
    const master = (await list()).find(({ fileName }) => fileName === 'LFS_0412.jpg')!;
    return await act({ setId: set!.id, masterId: master.id, call });
  } finally {
    await application.stop();
  }
}
