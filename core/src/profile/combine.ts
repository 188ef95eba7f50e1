import { greatestOf } from '../stats/extremes';
import { EvidenceError } from '../formats/evidence-error';
import { FrameTable } from './frame-table';
import { LabelTable } from './label-table';
import { LineCounts } from './line-counts';
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
  const other = parts.find(({ profile }) => kindOf(profile) !== kindOf(first));
  if (other)
    throw new EvidenceError(
      'not-alike',
      `Expected profiles of one kind, but ${other.name} holds ${kindOf(other.profile)} and ${parts[0].name} ${kindOf(first)}. Open them one by one.`
    );
  if (parts.length === 1) return first;
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const frameMaps = parts.map(({ profile }) =>
    profile.frames.map(({ name, file, line, column, kind, package: from }) =>
      table.indexOf(name, file, line, column, { kind, package: from })
    )
  );
  const nodeMaps = parts.map(({ profile }, i) => builder.add(profile, frameMaps[i]));
  const threads: string[] = [];
  const firstThread = parts.map(({ name, profile }) => {
    const at = threads.length;
    threads.push(
      ...profile.threads.map((thread) => (profile.threads.length > 1 ? `${name}, ${thread}` : name))
    );
    return at;
  });
  const tree = builder.tree(table.frames.length);
  const calls = joinCalls(parts, frameMaps, table.frames.length);
  const recordedNs = parts.reduce((sum, { profile }) => sum + (profile.recordedNs ?? 0), 0);
  return {
    ...first,
    ...(recordedNs > 0 ? { recordedNs } : {}),
    calls,
    frames: table.frames,
    ...tree,
    ...joinSamples(parts, nodeMaps, firstThread),
    threads,
    durationNs: greatestOf(parts.map(({ profile, offsetNs }) => offsetNs + profile.durationNs)),
    ticks: joinTicks(parts, nodeMaps, tree.nodeFrame.length)
  };
}

/** What a profile measures, in words for whoever mixes two. */
const kindOf = ({ valueType, unit, measure }: Profile): string =>
  measure === undefined ? `${valueType} in ${unit}` : `${measure} in ${unit}`;

function joinSamples(
  parts: readonly NamedProfile[],
  nodeMaps: readonly Int32Array[],
  firstThread: readonly number[]
): Pick<Profile, 'sampleNode' | 'sampleTime' | 'sampleWeight' | 'sampleThread' | 'labels'> {
  const count = parts.reduce((sum, { profile }) => sum + profile.sampleNode.length, 0);
  const sampleNode = new Int32Array(count);
  const sampleTime = new Float64Array(count);
  const sampleWeight = new Float64Array(count);
  const sampleThread = new Uint16Array(count);
  const next = parts.map(() => 0);
  const labels = new LabelTable();
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
    for (const { key, values, sampleValue } of profile.labels ?? [])
      if (sampleValue[from] >= 0) labels.add({ key, value: values[sampleValue[from]] });
    labels.keep(i);
  }
  return { sampleNode, sampleTime, sampleWeight, sampleThread, labels: labels.labels(count) };
}

/** Counts of calls add up where every part has them. */
function joinCalls(
  parts: readonly NamedProfile[],
  frameMaps: readonly number[][],
  frames: number
): Float64Array | undefined {
  if (!parts.every(({ profile: { calls } }) => calls)) return undefined;
  const joined = new Float64Array(frames);
  parts.forEach(({ profile: { calls } }, part) =>
    calls!.forEach((count, frame) => (joined[frameMaps[part][frame]] += count))
  );
  return joined;
}

function joinTicks(
  parts: readonly NamedProfile[],
  nodeMaps: readonly Int32Array[],
  nodes: number
): LineTicks | null {
  const lines = new LineCounts();
  parts.forEach(({ profile: { ticks } }, part) => {
    if (!ticks) return;
    const of = nodeMaps[part];
    for (let node = 0; node < of.length; node++)
      for (let i = ticks.start[node]; i < ticks.start[node + 1]; i++)
        lines.add(of[node], ticks.line[i], ticks.ticks[i]);
  });
  return lines.ticks(nodes);
}
