import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { findInHeap } from '../findings/heap-findings';
import { inspectHeap } from '../inspect/heap';
import { indexed } from '../testing/heap-store';
import { HprofWriter } from '../testing/hprof';
import type { HeapStore } from './heap-store';
import { holderMap, stepsOf } from './holders';
import { javaClassName } from './java-names';
import { objectFacts, textOfObject } from './object-facts';
import { rootsHolding, pathTo } from './root-path';

/** A dump of a real JDK 17 of `Tides.java`, which lies beside it, and that machine's own class histogram of the same moment. */
const file = (name: string): Buffer => readFileSync(new URL(`../../fixtures/heap/${name}`, import.meta.url));
let store: HeapStore;
beforeAll(() => {
  store = indexed(gunzipSync(file('tides.hprof.gz')));
});
const firstOf = (name: string): number =>
  store.column('classOf').indexOf(store.meta.classes.findIndex((one) => one.name === name));

describe('a heap dump of a real JVM', () => {
  it('has the counts and sizes of the machine’s own histogram', () => {
    const classes = new Map(store.meta.classes.map((one) => [one.name, one]));
    const own: Record<string, number> = {
      'quillhaven.tides.Tides$TideWindow': 1500,
      'quillhaven.tides.Tides$SpringWindow': 500,
      'quillhaven.tides.Tides$TideCache': 1,
      'double[]': 2003
    };
    let compared = 0;
    for (const [, count, bytes, name] of file('tides-histogram.txt')
      .toString()
      .matchAll(/^\s*\d+:\s+(\d+)\s+(\d+)\s+(\S+)/gm)) {
      const known = javaClassName(name.replaceAll('.', '/'));
      const found = classes.get(known);
      if (own[known] !== undefined)
        expect([known, found?.count, found?.shallowBytes]).toEqual([known, Number(count), Number(bytes)]);
      // The histogram’s own text and the call that made it came in between: of all other classes the size of one object is compared.
      if (!found || found.count === 0 || known.endsWith('[]') || known === 'java.lang.Class') continue;
      expect([known, found.shallowBytes / found.count]).toEqual([known, Number(bytes) / Number(count)]);
      compared++;
    }
    expect(compared).toBeGreaterThan(400);
    for (const [name, count] of Object.entries(own)) expect(classes.get(name)?.count).toBe(count);
    // Mirrors of classes hold their statics, which differ from class to class.
    const mirrors = classes.get('java.lang.Class')!;
    expect(mirrors.shallowBytes / mirrors.count / (185_816 / 1534)).toBeCloseTo(1, 2);
  });

  it('retains what is freed when an object is taken away, computed naively', () => {
    const { count } = store.meta;
    const [edgeStart, edgeTo, roots, shallow, retained] = (
      ['edgeStart', 'edgeTo', 'roots', 'shallow', 'retained'] as const
    ).map((name) => store.column(name));
    const aliveWithout = (without: number): number => {
      const seen = new Uint8Array(count);
      const open = [...roots].filter((root) => root !== without);
      let bytes = 0;
      while (open.length > 0) {
        const at = open.pop()!;
        if (seen[at]) continue;
        seen[at] = 1;
        bytes += shallow[at];
        for (let i = edgeStart[at]; i < edgeStart[at + 1]; i++)
          if (edgeTo[i] !== without) open.push(edgeTo[i]);
      }
      return bytes;
    };
    const all = aliveWithout(-1);
    expect(retained[count]).toBe(all);
    const chosen = [
      firstOf('quillhaven.tides.Tides$TideCache'),
      firstOf('quillhaven.tides.Tides$TideWindow'),
      firstOf('java.util.HashMap$Node[]')
    ];
    for (let i = 0; i < 40; i++) chosen.push((i * 1009) % count);
    for (const object of chosen) {
      if (store.column('idom')[object] < 0) continue;
      expect(all - aliveWithout(object)).toBe(retained[object]);
    }
  });

  it('shows fields, values, texts and arrays as the program set them', () => {
    const window = objectFacts(store, firstOf('quillhaven.tides.Tides$TideWindow'));
    const slots = new Map(window.slots.map((slot) => [slot.name, slot]));
    expect(slots.get('begun')?.value).toBe('1700000000001');
    expect(slots.get('hour')?.value).toBe('1');
    expect(slots.get('high')?.value).toBe('false');
    expect(textOfObject(store, slots.get('station')!.to, 100)).toBe('Northgate');
    const heights = objectFacts(store, slots.get('heights')!.to);
    expect([heights.length, heights.slots[0].value, heights.slots[1].value]).toEqual([32, '0.4127', '0']);
    const seen = objectFacts(store, slots.get('seen')!.to);
    // What only a weak reference led to is gone in a dump of live objects.
    expect(seen.slots.find(({ name }) => name === 'referent')?.value).toBe('null');
    const wide = [...store.column('classOf').keys()].find(
      (object) => textOfObject(store, object, 20) === 'Ebbe ⚓'
    );
    expect(wide).toBeDefined();
  });

  it('leads from a root to an object by the fields’ names', () => {
    const object = firstOf('quillhaven.tides.Tides$TideWindow');
    const steps = stepsOf(store, pathTo(store, object).path);
    const names = steps.map(({ className, via }) => `${via}:${className}`);
    expect(names.slice(-5, -2)).toEqual([
      'static CACHE:quillhaven.tides.Tides$TideCache',
      'windows:java.util.HashMap',
      'table:java.util.HashMap$Node[]'
    ]);
    expect(steps.find(({ className }) => className.endsWith('TideCache'))?.own).toBe(true);
    expect(rootsHolding(store, object, 5).length).toBeGreaterThan(0);
  });

  it('finds the holder by its own name, and the texts that repeat', () => {
    const found = findInHeap({ store, difference: null });
    const holder = found.find(({ rule }) => rule === 'one-holder')!;
    expect(holder.sentence).toMatch(/^TideCache\.windows keeps 4\d\s% of the heap/);
    expect(holder.figures.entries).toBe(2000);
    const [text] = inspectHeap(store, 1).duplicateStrings.top;
    expect(text).toMatchObject({ value: 'Northgate', count: 2000 });
    // Each copy is 24 bytes of text and 32 of its array (16 + 9, rounded up); the first is no waste.
    expect(text.wastedBytes).toBe(1999 * 56);
    const boxes = holderMap(store);
    expect(boxes[0].name).toBe('TideCache.windows');
    expect(boxes.reduce((sum, box) => sum + box.retainedBytes, 0)).toBe(store.meta.liveBytes);
  });
});

/** Class 0x10 `quay.Node` with fields `next` (object) and `value` (int); object ids from 0x100 on. */
const node = (idSize: 4 | 8 = 8): HprofWriter =>
  new HprofWriter(idSize)
    .text(1, 'quay/Node')
    .text(2, 'next')
    .text(3, 'value')
    .loadClass(1, 0x10, 1)
    .classDump(0x10, 0, [
      [2, 2],
      [3, 10]
    ]);

describe('the format', () => {
  it.each([4, 8] as const)(
    'with object ids of %i bytes, several segments and every kind of root',
    (idSize) => {
      const writer = node(idSize)
        .instance(0x100, 0x10, [
          [2, 0x108],
          [10, 7]
        ])
        .segment();
      writer
        .instance(0x108, 0x10, [
          [2, 0],
          [10, -1]
        ])
        .primitives(0x110, 7, [0]);
      writer
        .root(0x01, 0x100, ...(idSize === 8 ? [0, 0] : [0]))
        .root(0x02, 0x108, 1, 2)
        .root(0x03, 0x108, 1, 2)
        .root(0x04, 0x108, 1);
      writer
        .root(0x05, 0x10)
        .root(0x06, 0x108, 1)
        .root(0x07, 0x108)
        .root(0x08, 0x108, 1, 1)
        .root(0xff, 0x110)
        .root(0x89, 0x110)
        .root(0x8e, 0x110, 1, 1);
      writer.segment(0x0c);
      const found = indexed(writer.bytes());
      expect(found.meta.warnings).toEqual([]);
      expect(found.meta.count).toBe(4);
      expect(found.meta.rootRecords.reduce((sum, count) => sum + count, 0)).toBe(11);
      const facts = objectFacts(found, 1);
      expect(facts.slots.map(({ name, to, value }) => [name, to, value])).toEqual([
        ['next', 2, ''],
        ['value', -1, '7']
      ]);
      expect(objectFacts(found, 2).slots[1].value).toBe('-1');
    }
  );

  it('leaves weak referents out, unless they shall keep', () => {
    const bytes = new HprofWriter()
      .text(1, 'java/lang/ref/WeakReference')
      .text(2, 'referent')
      .text(3, 'quay/Pier')
      .loadClass(1, 0x10, 1)
      .loadClass(2, 0x18, 3)
      .classDump(0x10, 0, [[2, 2]])
      .classDump(0x18, 0)
      .instance(0x100, 0x10, [[2, 0x108]])
      .instance(0x108, 0x18, [])
      .root(0xff, 0x100)
      .root(0xff, 0x10)
      .root(0xff, 0x18)
      .segment()
      .bytes();
    expect(indexed(bytes).meta.unreachableObjects).toBe(1);
    expect(indexed(bytes, { weakKeep: true }).meta.unreachableObjects).toBe(0);
    expect(objectFacts(indexed(bytes), 2).slots).toEqual([
      { name: 'referent', type: 'object', to: 3, value: '', weak: true }
    ]);
  });
});

describe('what is wrong with a dump', () => {
  it('cut off at any byte it gives what could be read, or one worded error', () => {
    const whole = node()
      .instance(0x100, 0x10, [
        [2, 0x108],
        [10, 7]
      ])
      .instance(0x108, 0x10, [
        [2, 0x100],
        [10, 8]
      ])
      .objects(0x110, 0x10, [0x100, 0x108])
      .root(0xff, 0x110)
      .segment();
    const bytes = whole.bytes();
    fc.assert(
      fc.property(fc.nat(bytes.length), (length) => {
        try {
          inspectHeap(indexed(bytes.slice(0, length)), 5);
        } catch (cause) {
          expect(cause).toMatchObject({ code: expect.stringMatching(/^(?:not-hprof|no-objects|no-roots)$/) });
        }
      }),
      { numRuns: 300 }
    );
  });

  it('with flipped bytes it never breaks the reader', () => {
    const bytes = node()
      .instance(0x100, 0x10, [
        [2, 0x108],
        [10, 7]
      ])
      .instance(0x108, 0x10, [
        [2, 0x100],
        [10, 8]
      ])
      .objects(0x110, 0x10, [0x100])
      .primitives(0x118, 8, [1, 2, 3])
      .root(0xff, 0x110)
      .root(0xff, 0x118)
      .segment()
      .bytes();
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.nat(255), (at, value) => {
        const damaged = bytes.slice();
        damaged[at] = value;
        try {
          inspectHeap(indexed(damaged), 5);
        } catch (cause) {
          expect(cause).toHaveProperty('code');
        }
      }),
      { numRuns: 500 }
    );
  });

  it('is counted: lists of archived classes, lengths of terabytes, references to nothing, classes not there, unknown records', () => {
    const dangling = indexed(
      node()
        .instance(0x100, 0x10, [
          [2, 0xdead],
          [10, 1]
        ])
        .instance(0x120, 0x999, [[10, 1]])
        .root(0xff, 0x100)
        .root(0xff, 0xbeef)
        .segment()
        .bytes()
    );
    expect(dangling.meta.warnings.map(({ code, count }) => [code, count])).toEqual([
      ['dangling', 1],
      ['no-class', 1],
      ['dangling-root', 1]
    ]);
    const archive = (quay: HprofWriter): HprofWriter =>
      quay
        .objects(
          0x200,
          0x10,
          Array.from({ length: 150 }, (_, i) => 0x9000 + i * 8)
        )
        .root(0xff, 0x200);
    const codesOf = (quay: HprofWriter): string[] =>
      indexed(quay.segment().bytes()).meta.warnings.map(({ code }) => code);
    expect(codesOf(archive(node()))).toEqual(['archived-classes']);
    expect(
      codesOf(
        archive(
          node().instance(0x100, 0x10, [
            [2, 0xdead],
            [10, 1]
          ])
        )
      )
    ).toEqual(['dangling']);
    const huge = indexed(
      node()
        .instance(0x100, 0x10, [
          [2, 0],
          [10, 1]
        ])
        .root(0xff, 0x100)
        .raw(0x22, ...new Array<number>(11).fill(0), 9, 0xff, 0xff, 0xff, 0xff, 0xff, 0, 0, 0, 0, 0, 0, 0, 0)
        .segment()
        .bytes()
    );
    expect(huge.meta.warnings.map(({ code }) => code)).toContain('truncated');
    const odd = indexed(
      node()
        .instance(0x100, 0x10, [
          [2, 0],
          [10, 1]
        ])
        .root(0xff, 0x100)
        .raw(0x77, 1, 2)
        .segment()
        .bytes()
    );
    expect(odd.meta.warnings[0]).toMatchObject({ code: 'damaged' });
    expect(odd.meta.warnings[0].message).toContain('0x77');
    const twice = indexed(
      node()
        .instance(0x100, 0x10, [
          [2, 0],
          [10, 1]
        ])
        .instance(0x100, 0x10, [
          [2, 0],
          [10, 2]
        ])
        .root(0xff, 0x100)
        .segment()
        .bytes()
    );
    expect(twice.meta.warnings.map(({ code }) => code)).toEqual(['same-id-twice']);
    expect(() => indexed(new TextEncoder().encode('JAVA PROFILE 9.9'))).toThrow(/Expected a heap dump/);
  });
});
