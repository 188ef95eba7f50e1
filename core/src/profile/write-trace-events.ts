interface V8Node {
  id: number;
  children?: number[];
}

/**
 * V8 CPU profiles of several threads of one process as trace events, as a browser writes them: a `Profile` and a `ProfileChunk` for each. Nodes name their parent; how often
 * each line ran stays with the node, since it is not known of which sample it was.
 * @param threads each with its profile in JSON (`Profiler.Profile` of the Chrome DevTools Protocol); null where its samples are lost.
 * @throws SyntaxError where one is no JSON.
 */
export function writeTraceEvents(
  pid: number,
  threads: readonly { name: string; profile: string | null }[]
): string {
  const traceEvents = threads.flatMap(({ name, profile }, i) => {
    const of = {
      pid,
      tid: i + 1,
      id: `0x${(i + 1).toString(16)}`,
      cat: 'disabled-by-default-v8.cpu_profiler'
    };
    const named = { name: 'thread_name', ph: 'M', pid, tid: i + 1, args: { name } };
    if (profile === null) return [named, { name: 'Profile', ph: 'P', ...of, args: { data: {} } }];
    const { nodes, samples, timeDeltas, startTime, endTime } = JSON.parse(profile) as {
      nodes: V8Node[];
      samples: number[];
      timeDeltas: number[];
      startTime: number;
      endTime: number;
    };
    const parents = new Map(nodes.flatMap(({ id, children = [] }) => children.map((child) => [child, id])));
    const parted = nodes.map(({ children: _, ...node }) => {
      const parent = parents.get(node.id);
      return parent === undefined ? node : { ...node, parent };
    });
    return [
      named,
      { name: 'Profile', ph: 'P', ts: startTime, ...of, args: { data: { startTime } } },
      {
        name: 'ProfileChunk',
        ph: 'P',
        ts: endTime,
        ...of,
        args: { data: { cpuProfile: { nodes: parted, samples }, timeDeltas, endTime } }
      }
    ];
  });
  return JSON.stringify({ traceEvents });
}
