import { readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { findInSeries } from '../core/src/findings/thread-findings';
import { FileHead } from '../core/src/formats/file-head';
import { recogniseThreads } from '../core/src/threads/recognise';
import { readNodeReport } from '../core/src/threads/node-report';
import { readThreads } from '../core/src/threads/read';
import type { DumpSeries } from '../core/src/threads/model';

/** Dumps of real programs (`threads/`): Go 1.19, Python 3.11, Node.js 20. What their threads do is known from the programs. */
function dump(name: string): DumpSeries {
  const bytes = readFileSync(path.join(import.meta.dirname, 'threads', name));
  // Of a crash too the stacks can be looked at.
  return readThreads(bytes, recogniseThreads(new FileHead(bytes))!).series;
}
const modes = ({ dumps: [first] }: DumpSeries): string[] => first.threads.map(({ mode }) => mode);

describe('Go', () => {
  it('tells the deadlock its runtime found, and takes no doubtful argument for a lock', () => {
    const series = dump('deadlock.txt');
    const [main, ...moors] = series.dumps[0].threads;
    expect(main.waitsFor).toBeNull();
    expect(new Set(moors.map(({ waitsFor }) => series.dumps[0].locks[waitsFor!.lock].id)).size).toBe(2);
    const findings = findInSeries(series);
    expect(findings[0]).toMatchObject({ rule: 'deadlock', severity: 'high', figures: { threads: 3 } });
    expect(findings[0].sentence).toContain('all 3 goroutines were asleep');
  });

  it('says of a goroutine without a state only what its top frames show', () => {
    const series = dump('debug1.txt');
    expect(modes(series)).not.toContain('running');
    // Twelve goroutines wait for a channel: a group of goroutines is no pool.
    expect(findInSeries(series).map(({ rule }) => rule)).not.toContain('pool-exhausted');
    expect(modes(dump('debug2.txt'))).toContain('running');
  });
});

it('Python: a thread is not running because nothing else is told', () => {
  const series = dump('python.txt');
  const byFrame = new Map(
    series.dumps[0].threads.map(({ frames, mode }) => [
      [...frames].map((frame) => series.frames[frame]).find(({ kind }) => kind === 'app')!.name,
      mode
    ])
  );
  expect(byFrame.get('work')).toBe('waiting');
  expect(byFrame.get('listen')).toBe('waiting');
  // One sleeps in C, one waits for a lock in C, one computes: their top frames are all the program's own.
  for (const name of ['hold', 'wait', '<genexpr>']) expect(byFrame.get(name)).toBe('unknown');
});

it('Node.js: the lines of a message are no frames', () => {
  const report = JSON.parse(readFileSync(path.join(import.meta.dirname, 'threads/node-report.json'), 'utf8'));
  expect(readNodeReport(JSON.stringify(report)).series.dumps[0].threads[0].frames).toHaveLength(6);
  report.javascriptStack.stack.unshift('expected:', '  a berth', 'found:', '  nothing');
  const { series } = readNodeReport(JSON.stringify(report));
  expect(series.dumps[0].threads[0].frames).toHaveLength(6);
  expect(series.dumps[0].threads[0].mode).toBe('running');
});
