import { writeJvmDump, type WrittenThread } from '../core/src/testing/jvm-dump';

const frame = (i: number): string =>
  `quillhaven.${['pilots', 'tides', 'berths'][i % 3]}.harbour.schedule.Stage${i % 400}.apply${i % 7}(Stage${i % 400}.java:${(i * 31) % 900})`;

/** A text dump of a JVM, taken now, in which one thread holds up many. */
export function queueDump(threads: number, frames: number, waiting: number): string {
  return writeJvmDump(
    Array.from({ length: threads }, (_, i): WrittenThread => ({
      name: `http-worker-${i}`,
      frames: Array.from({ length: frames }, (__, depth) => frame((i % 97) * 13 + depth * 7)),
      holds: i === 0 ? ['0x00000006a0000001'] : [],
      wants: i > 0 && i <= waiting ? '0x00000006a0000001' : undefined
    })),
    new Date().toISOString().slice(0, 19).replace('T', ' ')
  );
}
