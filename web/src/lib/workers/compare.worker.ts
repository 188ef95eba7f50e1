import { expose, transfer } from 'comlink';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { difference, functionChanges, type FunctionChange } from '@tromix/core/profile/difference';
import { flameLayout, type FlameLayout } from '@tromix/core/profile/flame-layout';
import type { Frame, Profile } from '@tromix/core/profile/model';
import { slice } from '@tromix/core/profile/slice';
import { loadProfile } from './load-profile';

/** Two profiles laid over each other, as wide as the greater of both at each place. */
export interface Compared {
  frames: Frame[];
  unit: Profile['unit'];
  valueType: Profile['valueType'];
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  beforeSelf: Float64Array;
  beforeTotal: Float64Array;
  afterSelf: Float64Array;
  afterTotal: Float64Array;
  beforeSum: number;
  afterSum: number;
  layout: FlameLayout;
  changes: FunctionChange[];
  durationsNs: [number, number];
}

let sides: [Profile, Profile] | undefined;

const service = {
  async open(before: string, after: string): Promise<{ error: string } | { durationsNs: [number, number] }> {
    try {
      const read = (await Promise.all([loadProfile(before), loadProfile(after)])).map(
        ({ profile }) => profile
      ) as [Profile, Profile];
      if (read[0].unit !== read[1].unit || read[0].valueType !== read[1].valueType)
        return { error: 'These two do not measure the same thing. Choose two of one kind.' };
      sides = read;
      return { durationsNs: [read[0].durationNs, read[1].durationNs] };
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  /** @param per what each side's weights are divided by; 0 for its own whole, which gives shares. */
  compare(per: [number, number]): Compared {
    if (!sides) throw new Error('No profiles are open.');
    const [before, after] = sides.map((profile, i) => {
      const weights = slice(profile);
      return { frames: profile.frames, tree: profile, weights, scale: 1 / (per[i] || weights.sum || 1) };
    });
    const d = difference(before, after);
    // As wide as the greater of both, so that what vanished is seen too.
    const self = d.beforeSelf.map((weight, node) => Math.max(weight, d.afterSelf[node]));
    const total = Float64Array.from(self);
    for (let node = total.length - 1; node > 0; node--) total[d.nodeParent[node]] += total[node];
    const layout = flameLayout(d, { self, total, sum: total[0] ?? 0, idle: 0, samples: 0 });
    const compared: Compared = {
      frames: d.frames,
      unit: sides[0].unit,
      valueType: sides[0].valueType,
      nodeFrame: d.nodeFrame,
      nodeParent: d.nodeParent,
      beforeSelf: d.beforeSelf,
      beforeTotal: d.beforeTotal,
      afterSelf: d.afterSelf,
      afterTotal: d.afterTotal,
      beforeSum: d.beforeSum,
      afterSum: d.afterSum,
      layout,
      changes: functionChanges(d),
      durationsNs: [sides[0].durationNs, sides[1].durationNs]
    };
    return transfer(compared, [layout.node.buffer, layout.x.buffer, layout.width.buffer]);
  }
};
export type CompareService = typeof service;

expose(service);
