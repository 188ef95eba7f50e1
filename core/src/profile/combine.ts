import { greatestOf } from '../stats/extremes';
import { EvidenceError } from '../formats/evidence-error';
import { FrameTable } from './frame-table';
import type { LineTicks, Profile } from './model';
import { StackBuilder } from './stack-builder';

export interface NamedProfile {
  name: string;
  profile: Profile;
  /** Where it begins on the common time axis, nanoseconds. */
  offsetNs: number;
}

/**
 * Several profiles as one: each becomes a thread (or several) with its name, so that their stacks can be read together or apart.
 * @throws EvidenceError `not-alike` where they measure different things.
 */
export function combineProfiles(parts: readonly NamedProfile[]): Profile {
  const [{ profile: first }] = parts;
  const other = parts.find(
    ({ profile }) => profile.unit !== first.unit || profile.valueType !== first.valueType
  );
  if (other)
    throw new EvidenceError(
      'not-alike',
      `Expected profiles of one kind, but ${other.name} holds ${other.profile.valueType} in ${other.profile.unit} and ${parts[0].name} ${first.valueType} in ${first.unit}. Open them one by one.`
    );
  if (parts.length === 1) return first;
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const nodeMaps = parts.map(({ profile }) => {
    const frames = profile.frames.map(({ name, file, line, column, kind, package: from }) =>
      table.indexOf(name, file, line, column, { kind, package: from })
    );
    return builder.add(profile, frames);
  });
  const threads: string[] = [];
  const firstThread = parts.map(({ name, profile }) => {
    const at = threads.length;
    threads.push(
      ...profile.threads.map((thread) => (profile.threads.length > 1 ? `${name}, ${thread}` : name))
    );
    return at;
  });
  const tree = builder.tree(table.frames.length);
  return {
    ...first,
    frames: table.frames,
    ...tree,
    ...joinSamples(parts, nodeMaps, firstThread),
    threads,
    durationNs: greatestOf(parts.map(({ profile, offsetNs }) => offsetNs + profile.durationNs)),
    ticks: joinTicks(parts, nodeMaps, tree.nodeFrame.length)
  };
}

function joinSamples(
  parts: readonly NamedProfile[],
  nodeMaps: readonly Int32Array[],
  firstThread: readonly number[]
): Pick<Profile, 'sampleNode' | 'sampleTime' | 'sampleWeight' | 'sampleThread'> {
  const count = parts.reduce((sum, { profile }) => sum + profile.sampleNode.length, 0);
  const sampleNode = new Int32Array(count);
  const sampleTime = new Float64Array(count);
  const sampleWeight = new Float64Array(count);
  const sampleThread = new Uint16Array(count);
  const next = parts.map(() => 0);
  for (let i = 0; i < count; i++) {
    let earliest = -1;
    let time = Infinity;
    for (let part = 0; part < parts.length; part++) {
      const { profile, offsetNs } = parts[part];
      if (next[part] >= profile.sampleNode.length) continue;
      const at = offsetNs + profile.sampleTime[next[part]];
      if (at < time) [earliest, time] = [part, at];
    }
    const { profile } = parts[earliest];
    const from = next[earliest]++;
    sampleNode[i] = nodeMaps[earliest][profile.sampleNode[from]];
    sampleTime[i] = time;
    sampleWeight[i] = profile.sampleWeight[from];
    sampleThread[i] = firstThread[earliest] + (profile.sampleThread?.[from] ?? 0);
  }
  return { sampleNode, sampleTime, sampleWeight, sampleThread };
}

function joinTicks(
  parts: readonly NamedProfile[],
  nodeMaps: readonly Int32Array[],
  nodes: number
): LineTicks | null {
  const byNode = new Map<number, Map<number, number>>();
  parts.forEach(({ profile: { ticks } }, part) => {
    if (!ticks) return;
    const of = nodeMaps[part];
    for (let node = 0; node < of.length; node++) {
      for (let i = ticks.start[node]; i < ticks.start[node + 1]; i++) {
        let lines = byNode.get(of[node]);
        if (!lines) byNode.set(of[node], (lines = new Map()));
        lines.set(ticks.line[i], (lines.get(ticks.line[i]) ?? 0) + ticks.ticks[i]);
      }
    }
  });
  if (byNode.size === 0) return null;
  const start = new Int32Array(nodes + 1);
  const line: number[] = [];
  const count: number[] = [];
  for (let node = 0; node < nodes; node++) {
    for (const [at, ticks] of byNode.get(node) ?? []) {
      line.push(at);
      count.push(ticks);
    }
    start[node + 1] = line.length;
  }
  return { start, line: Int32Array.from(line), ticks: Float64Array.from(count) };
}
