import { randomBytes } from 'node:crypto';
import { publish } from '../live';
import { caseOf, keptBy } from '../queries/cases';
import { change } from '../workers';
import type { NewEntry } from './new-case';

/** Adds a note or a pin at the end of a case. @returns its id; null where the case is not there (any more) */
export async function addEntry(caseId: string, entry: NewEntry): Promise<string | null> {
  const one = await caseOf(caseId);
  if (!one) return null;
  const added = { ...entry, id: randomBytes(8).toString('hex'), atUs: Date.now() * 1000, version: 1 };
  await change('addEntry', one.id, added, keptBy({ ...one, entries: [added] }));
  publish('cases');
  return added.id;
}
