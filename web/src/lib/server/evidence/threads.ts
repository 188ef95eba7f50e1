import type { KindOnServer } from './kind';

/** Dumps tell their time, and of which process they are; a dump without a time counts from its arrival. */
export const threadsOnServer: KindOnServer<'threads'> = {
  examiner: async () => (await import('./examine/threads')).examineThreads,
  keepsFile: true,
  label(given, { summary, startedAtUs }) {
    const pid = given.pid || (summary?.pid ?? 0);
    const process = pid > 0 ? `${summary?.runtime ?? ''} ${pid}` : (summary?.process ?? '');
    return {
      ...given,
      pid,
      startedAtUs: given.startedAtUs ?? startedAtUs ?? Date.now() * 1000,
      series: process === '' ? '' : `threads ${given.service} ${given.host} ${process}`
    };
  }
};
