import type { KindOnServer } from './kind';

/** Of logs of statements only the masked groups are kept, since the lines hold values. */
export const statementsOnServer: KindOnServer<'statements'> = {
  keepsFile: false,
  label: (given, { startedAtUs }) => ({ ...given, startedAtUs: startedAtUs ?? given.startedAtUs })
};
