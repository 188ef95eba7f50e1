import { expose } from 'comlink';
import { howSure, type HowSure } from '@tromix/core/compare/how-sure';
import type { Sides } from '@tromix/core/sides';

const service = {
  /** @param onprogress share that is done, 0 to 1. */
  howSure: (samples: Sides<Float64Array>, onprogress: (share: number) => void): HowSure =>
    howSure(samples, { onProgress: (share) => void onprogress(share) })
};
export type HowSureService = typeof service;

expose(service);
