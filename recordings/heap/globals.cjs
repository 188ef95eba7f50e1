/** A global, a module's list, a Map and a chain that keep memory; which one, the argument says. Writes a heap snapshot. */
const { writeHeapSnapshot } = require('node:v8');
const [, , kind, size, file] = process.argv;
class Manifest {
  constructor(i) {
    this.lines = [i, i + 1, `line ${i}`];
    this.note = `note ${i}`;
  }
}
class SpokePart {
  constructor(next, weight) {
    this.next = next;
    this.weight = weight;
  }
}
const count = Number(size);
if (kind === 'global') {
  globalThis.manifests = [];
  for (let i = 0; i < count; i++) globalThis.manifests.push(new Manifest(i));
} else if (kind === 'map') {
  globalThis.registry = { byQuay: new Map() };
  for (let i = 0; i < count; i++) globalThis.registry.byQuay.set(i, new Manifest(i));
} else if (kind === 'chain') {
  globalThis.crate = { head: null };
  for (let i = 0; i < count; i++) globalThis.crate.head = new SpokePart(globalThis.crate.head, i);
}
writeHeapSnapshot(file);
