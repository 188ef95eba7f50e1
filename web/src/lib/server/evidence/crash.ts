import type { KindOnServer } from './kind';

/** A crash tells when the process ended, and which it was; one without a time counts from its arrival. */
export const crashOnServer: KindOnServer<'crash'> = {
  examiner: async () => (await import('./examine/crash')).examineCrash,
  keepsFile: true,
  label: (given, { summary, startedAtUs }) => ({
    ...given,
    pid: given.pid || (summary?.pid ?? 0),
    startedAtUs: given.startedAtUs ?? startedAtUs ?? Date.now() * 1000
  })
};
