import type { Profile, ValueType } from '../model';

/** How values of a unit become the profile's: others count as they are (common practice of the runtimes that write these). */
const UNITS: Record<string, { unit: Profile['unit']; factor: number }> = {
  nanoseconds: { unit: 'nanoseconds', factor: 1 },
  microseconds: { unit: 'nanoseconds', factor: 1e3 },
  milliseconds: { unit: 'nanoseconds', factor: 1e6 },
  seconds: { unit: 'nanoseconds', factor: 1e9 },
  bytes: { unit: 'bytes', factor: 1 },
  kilobytes: { unit: 'bytes', factor: 1024 },
  megabytes: { unit: 'bytes', factor: 1024 ** 2 }
};

/** What is measured, by how it is called (source: the value types in Go's `runtime/pprof`; common practice elsewhere). */
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
  const of = UNITS[unit.toLowerCase()] ?? { unit: 'count', factor: 1 };
  return { valueType, ...of };
}
