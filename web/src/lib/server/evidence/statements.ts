import type { KindOnServer } from './kind';

/** Of logs of statements only the masked groups are kept, since the lines hold values. */
export const statementsOnServer: KindOnServer<'statements'> = {
  examiner: async () => (await import('./examine/statements')).examineStatements,
  keepsFile: false,
  label: (given, { startedAtUs }) => ({ ...given, startedAtUs: startedAtUs ?? given.startedAtUs })
};
