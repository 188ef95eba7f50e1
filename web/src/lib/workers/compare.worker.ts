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
import { eachSide, type Sides } from '@tromix/core/sides';
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

let sides: Sides<Profile> | undefined;

const service = {
  async open(before: string, after: string): Promise<{ error: string } | { durationsNs: Sides<number> }> {
    try {
      const [was, is] = await Promise.all([loadProfile(before), loadProfile(after)]);
      const read = { before: was.profile, after: is.profile };
      if (was.profile.unit !== is.profile.unit || was.profile.valueType !== is.profile.valueType)
        return { error: 'These two do not measure the same thing. Choose two of one kind.' };
      sides = read;
      return { durationsNs: eachSide(read, ({ durationNs }) => durationNs) };
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  /** @param per what each side's weights are divided by; 0 for its own whole, which gives shares. */
  compare(per: Sides<number>): Compared {
    if (!sides) throw new Error('No profiles are open.');
    const d = difference(
      eachSide(sides, (profile, which) => {
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
    const { unit, valueType } = sides.before;
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
