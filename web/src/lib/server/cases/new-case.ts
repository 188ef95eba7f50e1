import { randomBytes } from 'node:crypto';
import type { Case, Entry } from '@tromix/core/case/case';
import { publish } from '../live';
import { keptBy } from '../queries/cases';
import { change } from '../workers';

/** An entry before it is stored. */
export type NewEntry = Omit<Entry, 'id' | 'atUs' | 'version'>;

/** Opens a case with its first entries. */
export async function openNewCase(question: string, entries: readonly NewEntry[]): Promise<Case> {
  const atUs = Date.now() * 1000;
  const id = (): string => randomBytes(8).toString('hex');
  const one: Case = {
    id: id(),
    question,
    state: 'open',
    told: '',
    createdAtUs: atUs,
    version: 1,
    entries: entries.map((entry, i) => ({ ...entry, id: id(), atUs: atUs + i, version: 1 }))
  };
  await change('openCase', one, keptBy(one));
  publish('cases');
  return one;
}
