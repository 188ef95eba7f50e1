/** A V8 CPU profile of any size as text, the same in each run. */
export function syntheticProfile(
  samples: number,
  nodeCount: number,
  functions: number,
  intervalUs = 1000
): string {
  let seed = 7;
  const random = (below: number): number => (seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31) % below;
  const parents = Array.from({ length: nodeCount }, (_, i) =>
    i === 0 ? -1 : Math.max(0, i - 1 - random(Math.min(i, 40)))
  );
  const children: number[][] = parents.map(() => []);
  parents.forEach((parent, i) => parent >= 0 && children[parent].push(i + 1));
  const nodes = parents.map((_, i) => {
    const work = i % functions;
    return {
      id: i + 1,
      callFrame: {
        functionName: i === 0 ? '(root)' : `work${work}`,
        scriptId: String(work % 90),
        url: i === 0 ? '' : `file:///srv/quillhaven/part${work % 90}.js`,
        lineNumber: work % 400,
        columnNumber: 4
      },
      hitCount: 0,
      children: children[i]
    };
  });
  const ids = Array.from({ length: samples }, () => 1 + random(nodeCount));
  const deltas = Array.from({ length: samples }, () => intervalUs - 100 + random(200));
  const endTime = deltas.reduce((sum, delta) => sum + delta, 0) + intervalUs;
  return JSON.stringify({ nodes, startTime: 0, endTime, samples: ids, timeDeltas: deltas });
}
