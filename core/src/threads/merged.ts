import { FrameTable } from '../profile/frame-table';
import type { Profile } from '../profile/model';
import { StackBuilder } from '../profile/stack-builder';
import type { DumpSeries } from './model';
import { shortName } from './places';

/** The stacks of threads merged from the root: each thread counts one. */
export function mergedStacks(series: DumpSeries, dump: number, threads: readonly number[]): Profile {
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const frameOf = series.frames.map(({ name, file, line, column, kind, package: from }) => {
    const short = shortName(name);
    // The package goes before the file, as Java's sources lie: a box has room for the name alone.
    const path =
      short !== name && file !== '' && !file.includes('/')
        ? name.slice(0, -short.length).replaceAll(/[.$]/g, '/')
        : '';
    return table.indexOf(short, `${path}${file}`, line, column, { kind, package: from });
  });
  const nodes = threads.map((i) => {
    let node = 0;
    const stack = series.dumps[dump].threads[i].frames;
    for (let depth = stack.length - 1; depth >= 0; depth--) node = builder.child(node, frameOf[stack[depth]]);
    return node;
  });
  return {
    valueType: 'wall',
    unit: 'count',
    frames: table.frames,
    ...builder.tree(table.frames.length),
    sampleNode: Int32Array.from(nodes),
    sampleTime: new Float64Array(nodes.length),
    sampleWeight: new Float64Array(nodes.length).fill(1),
    sampleThread: null,
    threads: ['all threads'],
    durationNs: 0,
    ticks: null
  };
}
