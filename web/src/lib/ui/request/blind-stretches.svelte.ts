import { ruleText } from '@tromix/core/findings/all-rules';
import type { Finding } from '@tromix/core/findings/finding';
import type { CoveringProfile } from '$lib/server/queries/request-page';
import { resource, type Resource } from '../frame/resource.svelte';
import { coveringProfile, type CoveredStretch, type RequestModel } from './request-model';
import { samplesOf, type StretchSamples } from '../profile/stretch-samples';

/** What is looked at: its members are read anew each time. */
export interface StretchesWish {
  model: RequestModel;
  findings: readonly Finding[] | null;
  profiles: readonly CoveringProfile[];
}

/** The stretches of a request that no span covers, held against the profiles that were recorded meanwhile. */
export class BlindStretches {
  readonly #wish: StretchesWish;
  readonly #samples: Resource<ReadonlyMap<Finding, StretchSamples>>;
  /** Time without spans that a profile explains: samples saw the process compute. It stays booked as unseen. */
  readonly explainedNs = $derived.by(() => {
    const busyNs = [...(this.#samples.value?.values() ?? [])].reduce((sum, one) => sum + one.busyNs, 0);
    return Math.min(this.#wish.model.request.ledger.unseen, Math.round(busyNs));
  });
  /** Whether a profile covers time without spans: it is known at once, what its samples say only later. */
  readonly isCovered: boolean = $derived.by(() => this.#covered().length > 0);

  /** To be made while a component is set up. */
  constructor(wish: StretchesWish) {
    this.#wish = wish;
    this.#samples = resource(
      () => {
        const covered = this.#covered();
        return covered.length > 0 ? covered : null;
      },
      async (covered) => {
        const samples = await samplesOf(covered.map(({ stretch }) => stretch));
        return new Map(
          covered.flatMap(({ finding }, i) => (samples[i] ? [[finding, samples[i]] as const] : []))
        );
      }
    );
  }

  #covered(): { finding: Finding; stretch: CoveredStretch }[] {
    return (this.#wish.findings ?? []).flatMap((finding) => {
      const stretch = this.isBlind(finding) ? this.coveredBy(finding) : null;
      return stretch ? [{ finding, stretch }] : [];
    });
  }

  /** Whether a profile would show more than the trace does. */
  readonly isBlind = (finding: Finding): boolean => ruleText(finding.rule)?.seeAlso === 'profile';

  /** The profile that covers a finding's stretch, and its part of it; null for none. */
  coveredBy(finding: Finding): CoveredStretch | null {
    const { model, profiles } = this.#wish;
    const { fromNs, toNs, spanIds } = finding.evidence;
    const node = model.byId.get(spanIds[0]);
    if (fromNs === undefined || toNs === undefined || node === undefined) return null;
    const owner = model.trace.byNode.get(model.trace.innermost[node])!;
    const begin = model.trace.tree.start[owner.node];
    return coveringProfile(model, node, begin + fromNs, begin + toNs, profiles);
  }

  /** What the samples say of a finding's stretch; undefined while they are read, and where there are none. */
  samplesOf(finding: Finding): StretchSamples | undefined {
    return this.#samples.value?.get(finding);
  }

  /** Why the samples could not be read; '' otherwise. */
  get error(): string {
    return this.#samples.error;
  }
}
