import type { Warnings } from '../formats/evidence-error';
import type { Profile, SampleLabel } from './model';

/** More kinds of labels than anybody chooses from; each takes room for every sample. */
const MAX_KEYS = 32;

interface KnownKey {
  values: Map<string, number>;
  samples: number[];
  of: number[];
}

/** A label with its value. One that comes again and again can be kept, so that it is looked up once. */
export interface SampleLabelPair {
  readonly key: string;
  readonly value: string;
  /** Where it is counted, and as what; set when the first sample with it counts. */
  known?: KnownKey;
  index?: number;
}

/** Labels of samples that are read one after another. */
export class LabelTable {
  readonly #keys = new Map<string, KnownKey>();
  /** Of the sample at hand. */
  readonly #pending: SampleLabelPair[] = [];

  /** Labels that were left out, of kinds beyond the first few. */
  #left = 0;

  /** A label of the sample at hand. */
  add(pair: SampleLabelPair): void {
    this.#pending.push(pair);
  }

  /** The sample at hand counts, as the one of this number. Of one key that it has twice the first counts. */
  keep(sample: number): void {
    for (const pair of this.#pending) {
      if (pair.known === undefined) this.#know(pair);
      const { known, index } = pair;
      if (known === undefined || index === undefined) this.#left++;
      else if (known.samples.at(-1) !== sample) {
        known.samples.push(sample);
        known.of.push(index);
      }
    }
    this.drop();
  }

  /** The sample at hand does not count. */
  drop(): void {
    this.#pending.length = 0;
  }

  /** Labels as a profile has them; those that were left out are told. @param samples how many there are */
  columns(samples: number, warnings: Warnings): Pick<Profile, 'labels'> {
    warnings.add(
      'labels-cut',
      `Samples have more than ${MAX_KEYS} kinds of labels; the others were left out.`,
      this.#left
    );
    const labels = this.labels(samples);
    return labels.length > 0 ? { labels } : {};
  }

  /** @param samples how many there are */
  labels(samples: number): SampleLabel[] {
    return [...this.#keys].map(([key, { values, samples: at, of }]) => {
      const sampleValue = new Int32Array(samples).fill(-1);
      for (let i = 0; i < at.length; i++) sampleValue[at[i]] = of[i];
      return { key, values: [...values.keys()], sampleValue };
    });
  }

  #know(pair: SampleLabelPair): void {
    let known = this.#keys.get(pair.key);
    if (!known) {
      if (this.#keys.size >= MAX_KEYS) return;
      this.#keys.set(pair.key, (known = { values: new Map(), samples: [], of: [] }));
    }
    let index = known.values.get(pair.value);
    if (index === undefined) known.values.set(pair.value, (index = known.values.size));
    pair.known = known;
    pair.index = index;
  }
}
