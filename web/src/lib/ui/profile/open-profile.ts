import { wrap, type Remote } from 'comlink';
import type { ProfileService } from '$lib/workers/profile.worker';

/** A worker that holds one profile. */
export interface OpenProfile {
  service: Remote<ProfileService>;
  worker: Worker;
  close: () => void;
}

export function openProfile(): OpenProfile {
  const worker = new Worker(new URL('../../workers/profile.worker.ts', import.meta.url), { type: 'module' });
  return { service: wrap<ProfileService>(worker), worker, close: () => worker.terminate() };
}
