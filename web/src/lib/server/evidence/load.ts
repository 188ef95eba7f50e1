import type { KindOnServer } from './kind';

/** A load run says itself when it was; what it was sent to is no process of its own. */
export const loadOnServer: KindOnServer<'load'> = {
  examiner: async () => (await import('./examine/load')).examineLoad,
  keepsFile: true,
  label: (given, { summary, startedAtUs }) => ({
    ...given,
    name: given.name || `${summary?.name ?? 'load run'}.json`,
    startedAtUs: startedAtUs ?? given.startedAtUs
  })
};
