import { isStackOverflow, type RecordedException } from '../failures/identity';
import type { CrashCause } from './crash';

/** What runtimes say where there is no memory left: V8, the JVM, Python, Go, Ruby, PHP. */
const OUT_OF_MEMORY =
  /heap out of memory|OutOfMemory|^MemoryError\b|NoMemoryError|Allowed memory size|runtime: out of memory|out of memory: cannot allocate|cannot allocate memory/i;

/** What ended a process by the words of what it threw; null where they say nothing but that it was thrown. */
export function causeOf({ type, message }: Pick<RecordedException, 'type' | 'message'>): CrashCause | null {
  if (OUT_OF_MEMORY.test(`${type}: ${message}`) || OUT_OF_MEMORY.test(type)) return 'memory';
  if (isStackOverflow(type, message)) return 'recursion';
  return /all goroutines are asleep/.test(message) ? 'deadlock' : null;
}
