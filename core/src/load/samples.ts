/** Why a request failed, beside an unexpected status. */
export const FAULTS = [
  '',
  'refused',
  'unreachable',
  'unknown-host',
  'reset',
  'timeout',
  'tls',
  'redirect-elsewhere',
  'redirects-without-end',
  'answer-too-large',
  'not-http',
  'too-many-open',
  'status'
] as const;
export type Fault = (typeof FAULTS)[number];

/** Faults in words. */
export const FAULT_WORDS: Record<Exclude<Fault, ''>, string> = {
  refused: 'nothing listens at the address',
  unreachable: 'the host cannot be reached',
  'unknown-host': 'the name of the host is not known',
  reset: 'the server closed the connection before it answered',
  timeout: 'no answer within the time limit',
  tls: 'the encrypted connection could not be made',
  'redirect-elsewhere': 'a redirect leads to where this run may not send',
  'redirects-without-end': 'too many redirects, one after another',
  'answer-too-large': 'the answer was longer than is read',
  'not-http': 'what came back is not HTTP',
  'too-many-open': 'too many requests were unanswered, so it was not sent',
  status: 'the status was not the expected one'
};

/** One request of a run. Times in microseconds. */
export interface Sample {
  /** In the order in which they were sent, from 0: it names the trace. */
  number: number;
  step: number;
  user: number;
  /** When it was to be sent, after the run's start. */
  intendedUs: number;
  /** How much later the driver sent it. */
  lateUs: number;
  /** From then to the last byte of the answer. */
  durationUs: number;
  /** 0 where there was no answer. */
  status: number;
  /** Of the answer’s body. */
  bytes: number;
  /** Index into `FAULTS`. */
  fault: number;
}
export const COLUMNS = [
  'number',
  'step',
  'user',
  'intendedUs',
  'lateUs',
  'durationUs',
  'status',
  'bytes',
  'fault'
] as const satisfies readonly (keyof Sample)[];

/** Samples one after another, as threads hand them on. */
export const packSamples = (samples: readonly Sample[]): Float64Array<ArrayBuffer> =>
  Float64Array.from(samples.flatMap((sample) => COLUMNS.map((name) => sample[name])));

/** Room doubles from here. */
const FIRST_ROOM = 1024;

/** The samples of a run as columns, in the order in which they ended. */
export class Samples {
  length = 0;
  #columns = COLUMNS.map(() => new Float64Array(FIRST_ROOM));

  add(sample: Sample): void {
    if (this.length === this.#columns[0].length)
      this.#columns = this.#columns.map((old) => {
        const grown = new Float64Array(old.length * 2);
        grown.set(old);
        return grown;
      });
    COLUMNS.forEach((name, i) => (this.#columns[i][this.length] = sample[name]));
    this.length++;
  }

  column(name: keyof Sample): Float64Array {
    return this.#columns[COLUMNS.indexOf(name)].subarray(0, this.length);
  }

  /** Some samples, one after another in the order of `COLUMNS`. */
  addPacked(packed: Float64Array): void {
    for (let i = 0; i + COLUMNS.length <= packed.length; i += COLUMNS.length)
      this.add(Object.fromEntries(COLUMNS.map((name, c) => [name, packed[i + c]])) as unknown as Sample);
  }

  at(i: number): Sample {
    return Object.fromEntries(COLUMNS.map((name, c) => [name, this.#columns[c][i]])) as unknown as Sample;
  }
}

/** When each sample was sent, and when it ended: microseconds after the run's start. */
export function sentAndEnded(samples: Samples): { sent: Float64Array; ended: Float64Array } {
  const late = samples.column('lateUs');
  const durations = samples.column('durationUs');
  const sent = samples.column('intendedUs').map((us, i) => us + late[i]);
  return { sent, ended: sent.map((us, i) => us + durations[i]) };
}

/**
 * How long somebody waited for each sample, microseconds. In an open model from when it was to be sent, so that a server that stands still is not
 * flattered by requests that were held back; in a closed one from when it was sent.
 * Source: G. Tene, "How NOT to Measure Latency" (2013): coordinated omission. From memory.
 */
export function responseTimes(samples: Samples, open: boolean): Float64Array {
  const durations = Float64Array.from(samples.column('durationUs'));
  if (!open) return durations;
  const late = samples.column('lateUs');
  return durations.map((us, i) => us + late[i]);
}
