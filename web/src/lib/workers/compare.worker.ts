import { expose, transfer } from 'comlink';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import {
  difference,
  functionChanges,
  type FunctionChange,
  type SideWeights
} from '@tromix/core/profile/difference';
import { flameLayout, type FlameLayout } from '@tromix/core/profile/flame-layout';
import type { Frame, Profile } from '@tromix/core/profile/model';
import { slice } from '@tromix/core/profile/slice';
import { sumScope } from '@tromix/core/profile/sums/scope-sums';
import { eachSide, type Sides } from '@tromix/core/sides';
import { fetchSums } from './fetch-sums';
import { loadProfile } from './load-profile';

/** Two profiles laid over each other, as wide as the greater of both at each place. */
export interface Compared extends Sides<SideWeights> {
  frames: Frame[];
  unit: Profile['unit'];
  valueType: Profile['valueType'];
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  layout: FlameLayout;
  changes: FunctionChange[];
  durationsNs: Sides<number>;
}

/** What is opened on a side: a file, or the sums of a scope. */
export type SideSource = { content: string } | { sums: string };

/** Two profiles that are open. */
export interface OpenedSides {
  durationsNs: Sides<number>;
  /** Requests the sums of scopes are of; null of files, which do not know them. */
  requests: Sides<number> | null;
}

/** A side as it was read. */
interface ReadSide {
  profile: Profile;
  durationNs: number;
  /** 0 where it is not known. */
  requests: number;
}

let sides: Sides<ReadSide> | undefined;

async function readSide(source: SideSource): Promise<ReadSide> {
  if ('content' in source) {
    const { profile } = await loadProfile(source.content);
    return { profile, durationNs: profile.durationNs, requests: 0 };
  }
  const { head, dictionary, slices } = await fetchSums(source.sums);
  const { profile, coveredUs, requests } = sumScope(dictionary, slices, head.ofEndpoint, head.valueType);
  return { profile, durationNs: coveredUs * 1000, requests };
}

const service = {
  async open(sources: Sides<SideSource>): Promise<{ error: string } | OpenedSides> {
    try {
      const [before, after] = await Promise.all([readSide(sources.before), readSide(sources.after)]);
      const measures = ({ profile: { unit, valueType } }: ReadSide): string => `${valueType} ${unit}`;
      if (measures(before) !== measures(after))
        return { error: 'These two do not measure the same thing. Choose two of one kind.' };
      sides = { before, after };
      const known = before.requests > 0 && after.requests > 0;
      return {
        durationsNs: eachSide(sides, ({ durationNs }) => durationNs),
        requests: known ? eachSide(sides, ({ requests }) => requests) : null
      };
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  /** @param per what each side's weights are divided by; 0 for its own whole, which gives shares. */
  compare(per: Sides<number>): Compared {
    if (!sides) throw new Error('No profiles are open.');
    const d = difference(
      eachSide(sides, ({ profile }, which) => {
        const weights = slice(profile);
        return {
          frames: profile.frames,
          tree: profile,
          weights,
          scale: 1 / (per[which] || weights.sum || 1)
        };
      })
    );
    // As wide as the greater of both, so that what vanished is seen too.
    const self = d.before.self.map((weight, node) => Math.max(weight, d.after.self[node]));
    const total = Float64Array.from(self);
    for (let node = total.length - 1; node > 0; node--) total[d.nodeParent[node]] += total[node];
    const layout = flameLayout(d, { self, total, sum: total[0] ?? 0, idle: 0, samples: 0 });
    const { frames, nodeFrame, nodeParent, before, after } = d;
    const { unit, valueType } = sides.before.profile;
    const compared: Compared = {
      frames,
      unit,
      valueType,
      nodeFrame,
      nodeParent,
      before,
      after,
      layout,
      changes: functionChanges(d),
      durationsNs: eachSide(sides, ({ durationNs }) => durationNs)
    };
    return transfer(compared, [layout.node.buffer, layout.x.buffer, layout.width.buffer]);
  }
};
export type CompareService = typeof service;

expose(service);
