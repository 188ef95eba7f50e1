import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { findInHeap } from '../core/src/findings/heap-findings';
import type { HeapFinding } from '../core/src/findings/heap-finding';
import { bigHolders } from '../core/src/heap/big-holders';
import { holderMap } from '../core/src/heap/holders';
import { javaClassName } from '../core/src/heap/java-names';
import { indexed } from '../core/src/testing/heap-store';

/** Dumps of a real JVM 17 and of Node.js 20, whose programs say what holds them (`heap/Crates.java`, `heap/globals.cjs`). */
const store = (name: string) =>
  indexed(gunzipSync(readFileSync(path.join(import.meta.dirname, 'heap', name))));
const found = (name: string): HeapFinding => findInHeap({ store: store(name), difference: null })[0];

describe('the classes of a heap', () => {
  it('have the counts and sizes of the JVM’s own histogram, all of them', () => {
    const ours = new Map(store('counted.hprof.gz').meta.classes.map((one) => [one.name, one]));
    const counted = readFileSync(path.join(import.meta.dirname, 'heap/counted-histogram.txt'), 'utf8');
    const rows = [...counted.matchAll(/^\s*\d+:\s+(\d+)\s+(\d+)\s+(\S+)/gm)];
    expect(rows.length).toBeGreaterThan(200);
    for (const [, count, bytes, written] of rows) {
      const name = javaClassName(written.replaceAll('.', '/'));
      const { count: found, shallowBytes } = ours.get(name) ?? { count: 0, shallowBytes: 0 };
      expect([name, found]).toEqual([name, Number(count)]);
      // Mirrors of classes hold their statics, and of some the machine's own.
      if (name === 'java.lang.Class') expect(shallowBytes / Number(bytes)).toBeCloseTo(1, 2);
      else expect([name, shallowBytes]).toEqual([name, Number(bytes)]);
    }
  });
});

describe('what holds a heap', () => {
  it('is a static field, whatever arrays lie between', () => {
    const [holder, ...others] = bigHolders(store('grid.hprof.gz'));
    expect(holder).toMatchObject({ name: 'Crates.GRID', via: 'Crates.static GRID', chain: null });
    expect(others).toEqual([]);
    // 2,000 manifests of 352 (16 + 40 × 8) and 24 bytes, ten rows of 1,616 …: two fifths of the rest of the JVM, and more.
    expect(holder.retainedBytes).toBeGreaterThan(2000 * (336 + 24));
    expect(found('grid.hprof.gz').sentence).toMatch(/^Crates\.GRID keeps \d\d\s% of the heap/);
  });

  it.each([
    ['chain.hprof.gz', 'Crate.head'],
    ['chain.heapsnapshot.gz', 'crate.head']
  ])('is a chain in %s, told as one', (name, holder) => {
    const finding = found(name);
    expect(finding.rule).toBe('long-chain');
    expect(finding.sentence).toMatch(/^A chain of (?:20\s000|19\s999) × SpokePart from/);
    expect(finding.sentence).toContain(`from ${holder}, through next`);
  });

  it.each(['grid.hprof.gz', 'chain.hprof.gz', 'chain.heapsnapshot.gz'])(
    'leaves less than a fifth unopened in %s',
    (name) => {
      const one = store(name);
      const boxes = holderMap(one);
      const rest = boxes.find(({ object }) => object < 0)?.retainedBytes ?? 0;
      expect(rest).toBeLessThan(one.meta.liveBytes / 5);
      expect(boxes.reduce((sum, { retainedBytes }) => sum + retainedBytes, 0)).toBe(one.meta.liveBytes);
    }
  );

  it('is no loader, no class and no synthetic root', () => {
    for (const name of ['grid.hprof.gz', 'chain.hprof.gz', 'chain.heapsnapshot.gz'])
      for (const { className } of bigHolders(store(name)))
        expect(className).not.toMatch(/ClassLoader|^java\.lang\.Class$|^\(/);
  });
});
