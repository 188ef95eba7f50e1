import { expose, transfer } from 'comlink';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { flameLayout, type FlameLayout } from '@tromix/core/profile/flame-layout';
import {
  functionWeights,
  heaviestBranch,
  maxRecursion,
  type FunctionWeight
} from '@tromix/core/profile/functions';
import type { Frame, Profile } from '@tromix/core/profile/model';
import { slice, type SliceOptions } from '@tromix/core/profile/slice';
import { cpuStrip } from '@tromix/core/profile/strip';
import { readV8CpuProfile } from '@tromix/core/profile/v8-cpu';
import type { Warning } from '@tromix/core/formats/evidence-error';

/** A browser holds no longer text. */
const MAX_INFLATED = 512 * 1024 * 1024;

export interface OpenedProfile {
  frames: Frame[];
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  deepest: Int32Array;
  durationNs: number;
  samples: number;
  strip: Float32Array;
  warnings: Warning[];
}

/** Every view of one selection. */
export interface ProfileView {
  layout: FlameLayout;
  self: Float64Array;
  total: Float64Array;
  sum: number;
  idle: number;
  samples: number;
  functions: FunctionWeight[];
  heaviest: number[];
  /** Time this took in the worker, milliseconds. */
  tookMs: number;
}

let profile: Profile | undefined;

/** Parses and slices off the page's main thread: a thin shell over core. */
const service = {
  async open(url: string, stripBins: number): Promise<OpenedProfile | { error: string }> {
    const response = await fetch(url);
    if (!response.ok) return { error: `The file of this profile could not be loaded (${response.status}).` };
    try {
      const content = gunzip(new Uint8Array(await response.arrayBuffer()), {
        maxBytes: MAX_INFLATED,
        setting: 'the longest text a browser holds'
      });
      const read = readV8CpuProfile(content);
      profile = read.profile;
      const opened: OpenedProfile = {
        frames: profile.frames,
        nodeFrame: profile.nodeFrame.slice(),
        nodeParent: profile.nodeParent.slice(),
        deepest: maxRecursion(profile),
        durationNs: profile.durationNs,
        samples: profile.sampleNode.length,
        strip: cpuStrip(profile, stripBins),
        warnings: read.warnings
      };
      return transfer(opened, [
        opened.nodeFrame.buffer,
        opened.nodeParent.buffer,
        opened.deepest.buffer,
        opened.strip.buffer
      ]);
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  view(options: SliceOptions): ProfileView {
    if (!profile) throw new Error('No profile is open.');
    const begun = performance.now();
    const weights = slice(profile, options);
    const layout = flameLayout(profile, weights);
    const view: ProfileView = {
      layout,
      self: weights.self,
      total: weights.total,
      sum: weights.sum,
      idle: weights.idle,
      samples: weights.samples,
      functions: functionWeights(profile, weights),
      heaviest: heaviestBranch(profile, weights),
      tookMs: performance.now() - begun
    };
    return transfer(view, [
      layout.node.buffer,
      layout.depth.buffer,
      layout.x.buffer,
      layout.width.buffer,
      layout.parent.buffer,
      weights.self.buffer,
      weights.total.buffer
    ]);
  }
};
export type ProfileService = typeof service;

expose(service);
