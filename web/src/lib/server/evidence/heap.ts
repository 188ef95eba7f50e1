import { dropIndexes, indexState } from '../heap/indexes';
import type { KindOnServer } from './kind';

/** Heap dumps are stored as they are, and indexed when that is done: it may take a while. */
export const heapOnServer: KindOnServer<'heap'> = {
  keepsFile: true,
  label(given, { startedAtUs }) {
    const { service, host, pid } = given;
    return {
      ...given,
      startedAtUs: given.startedAtUs ?? startedAtUs ?? Date.now() * 1000,
      series: service === '' && pid === 0 ? '' : `heap ${service} ${host} ${pid || ''}`
    };
  },
  afterKept: (id) => void indexState(id, false, true),
  afterRemoved: dropIndexes
};
