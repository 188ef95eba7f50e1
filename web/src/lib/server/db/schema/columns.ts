import { integer, text } from 'drizzle-orm/sqlite-core';

// Columns that many tables have alike. A column is named as its field, in lower case with underscores.

const columnName = (field: string): string => field.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);
const always =
  <Column>(make: (name: string) => Column) =>
  <Field extends string>(...fields: Field[]): Record<Field, Column> =>
    Object.fromEntries(fields.map((field) => [field, make(columnName(field))])) as Record<Field, Column>;

/** Columns of integers, never NULL. */
export const integers = always((name) => integer(name).notNull());
/** Columns of text, never NULL. */
export const texts = always((name) => text(name).notNull());

/** Which entry span a row is about. */
export const ofRequest = texts('traceId', 'spanId');
/** Who served it, by number. */
export const servedBy = integers('endpointId', 'hostId', 'releaseId');
/** A process, by its names. */
export const ofProcess = { ...texts('service', 'host', 'release'), ...integers('pid') };

/** The ten accounts as columns: of a request's own ledger (`in`), and of the time in which it is the innermost (`ex`). */
export const ledger = integers(
  'inOwnCode',
  'inDatabase',
  'inCache',
  'inRemote',
  'inMessaging',
  'inFile',
  'inLock',
  'inPause',
  'inQueue',
  'inUnseen',
  'exOwnCode',
  'exDatabase',
  'exCache',
  'exRemote',
  'exMessaging',
  'exFile',
  'exLock',
  'exPause',
  'exQueue',
  'exUnseen'
);
