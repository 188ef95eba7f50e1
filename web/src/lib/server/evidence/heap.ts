import type { KindOnServer } from './kind';

/** Heap dumps are stored as they are, and indexed when that is done: it may take a while. */
export const heapOnServer: KindOnServer<'heap'> = {
  examiner: async () => (await import('./examine/heap')).examineHeap,
  keepsFile: true,
  label(given, { startedAtUs }) {
    const { service, host, pid } = given;
    return {
      ...given,
      startedAtUs: given.startedAtUs ?? startedAtUs ?? Date.now() * 1000,
      series: service === '' && pid === 0 ? '' : `heap ${service} ${host} ${pid || ''}`
    };
  }
};
