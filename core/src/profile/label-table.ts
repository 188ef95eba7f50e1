import type { SampleLabel } from './model';

/** More kinds of labels than anybody chooses from; each takes room for every sample. */
export const MAX_KEYS = 32;

/** Labels of samples that are read one after another. */
export class LabelTable {
  readonly #keys = new Map<string, { values: Map<string, number>; samples: number[]; of: number[] }>();
  /** Of the sample at hand. */
  readonly #pending: [key: string, value: string][] = [];

  /** Labels that were left out, of kinds beyond the first few. */
  left = 0;

  /** A label of the sample at hand. */
  add(key: string, value: string): void {
    this.#pending.push([key, value]);
  }

  /** The sample at hand counts, as the one of this number. Of one key that it has twice the first counts. */
  keep(sample: number): void {
    for (const [key, value] of this.#pending) {
      let known = this.#keys.get(key);
      if (!known && this.#keys.size >= MAX_KEYS) {
        this.left++;
        continue;
      }
      if (!known) this.#keys.set(key, (known = { values: new Map(), samples: [], of: [] }));
      if (known.samples.at(-1) === sample) continue;
      let index = known.values.get(value);
      if (index === undefined) known.values.set(value, (index = known.values.size));
      known.samples.push(sample);
      known.of.push(index);
    }
    this.drop();
  }

  /** The sample at hand does not count. */
  drop(): void {
    this.#pending.length = 0;
  }

  /** @param samples how many there are */
  labels(samples: number): SampleLabel[] {
    return [...this.#keys].map(([key, { values, samples: at, of }]) => {
      const sampleValue = new Int32Array(samples).fill(-1);
      for (let i = 0; i < at.length; i++) sampleValue[at[i]] = of[i];
      return { key, values: [...values.keys()], sampleValue };
    });
  }
}
