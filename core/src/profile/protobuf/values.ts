import type { Profile, ValueType } from '../model';
import { unitOf } from '../unit-of';

/** What is measured, by how it is called (source: the value types of Go's standard library; common practice elsewhere). */
const NAMES: [RegExp, ValueType][] = [
  [/^(?:cpu|samples|on-?cpu)/, 'cpu'],
  [/^(?:wall|real)/, 'wall'],
  [/^(?:alloc)/, 'allocation'],
  [/^(?:inuse|live|heap|space|objects)/, 'memory'],
  [/^(?:contentions|delay|lock|block|wait)/, 'waiting']
];

/** What values of a type and unit are in a profile. */
export function measureOf(
  type: string,
  unit: string
): Pick<Profile, 'valueType' | 'unit'> & { factor: number } {
  const valueType = NAMES.find(([name]) => name.test(type.toLowerCase()))?.[1] ?? 'other';
  // Others count as they are.
  return { valueType, ...(unitOf(unit.toLowerCase()) ?? { unit: 'count', factor: 1 }) };
}
