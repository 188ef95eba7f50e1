/** A program that fills its heap and writes a snapshot of it: `node -e FILL file windows`. */
export const FILL = `
  class Window { constructor(i) { this.hour = i; this.name = 'window ' + i; this.next = null; this.parts = [{ i }, { i }]; } }
  const kept = new Map(); let last = null;
  for (let i = 0; i < Number(process.argv[2]); i++) { const one = new Window(i); one.next = last; last = one; kept.set(i, one); }
  require('node:v8').writeHeapSnapshot(process.argv[1]); globalThis.kept = kept;`;
