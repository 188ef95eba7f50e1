/**
 * The tide service's cache of Quillhaven, for the demo's two heap dumps. Its fault: windows are kept for ever. Writes
 * `heap-tides-1.heapsnapshot.gz` with 1,110 windows and `heap-tides-2.heapsnapshot.gz` with 6,204, into the folder given.
 */
import { createReadStream, createWriteStream, rmSync } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { writeHeapSnapshot } from 'node:v8';
import { createGzip } from 'node:zlib';

class TideWindow {
  constructor(hour) {
    this.hour = hour;
    this.station = ['Northgate', 'Ferry Stairs', 'Outer Mole'][hour % 3].split('').join('');
    this.heights = Array.from({ length: 64 }, (_, i) => Math.sin(hour + i * 0.1) + 0.5);
  }
}

class TideCache {
  windows = new Map();

  windowOf(hour) {
    let window = this.windows.get(hour);
    if (!window) this.windows.set(hour, (window = new TideWindow(hour)));
    return window;
  }
}

class SpanBuffer {
  ring = Array.from({ length: 200 }, (_, i) => ({ name: `span ${i}`, at: i * 1.5 }));
}

const cache = new TideCache();
const buffer = new SpanBuffer();
const folder = process.argv[2];
let hour = 0;
for (const [number, windows] of [
  [1, 1110],
  [2, 6204]
]) {
  while (cache.windows.size < windows) cache.windowOf(hour++);
  const file = path.join(folder, `heap-tides-${number}.heapsnapshot`);
  writeHeapSnapshot(file);
  await pipeline(createReadStream(file), createGzip({ level: 9 }), createWriteStream(`${file}.gz`));
  rmSync(file);
}
console.log(`${cache.windows.size} windows, ${buffer.ring.length} spans`);
