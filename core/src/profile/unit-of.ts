import type { Profile } from './model';

/** A unit as files call it, and how its values become the profile's. */
export interface Unit {
  unit: Profile['unit'];
  factor: number;
}

const UNITS: Record<string, Unit> = {
  count: { unit: 'count', factor: 1 },
  nanoseconds: { unit: 'nanoseconds', factor: 1 },
  microseconds: { unit: 'nanoseconds', factor: 1e3 },
  milliseconds: { unit: 'nanoseconds', factor: 1e6 },
  seconds: { unit: 'nanoseconds', factor: 1e9 },
  bytes: { unit: 'bytes', factor: 1 },
  kilobytes: { unit: 'bytes', factor: 1024 },
  megabytes: { unit: 'bytes', factor: 1024 ** 2 }
};

/** The unit of a name (common practice of the runtimes that write profiles); null for one that is not known. */
export const unitOf = (name: string): Unit | null => (Object.hasOwn(UNITS, name) ? UNITS[name] : null);
