import protobuf from 'protobufjs/light.js';

/** A counter of the mix below, and how its value comes about. */
interface Made {
  name: string;
  attributes: [string, string][];
  /** Sums, gauges, or a histogram of six buckets. */
  kind: 'sum' | 'gauge' | 'histogram';
  next: (random: () => number, before: number) => number;
}

/**
 * A hundred series of one sender, in the proportions in which `tromix host` and the runtime package of OpenTelemetry for Node.js send them: times of
 * processors and processes in hundredths of seconds, bytes and operations that add up, memory in pages, values that seldom change, shares and
 * delays with all digits of a double, histograms.
 */
const MIX: [count: number, kind: Made['kind'], Made['next']][] = [
  [28, 'sum', (random, before) => Math.round((before + random() * 3) * 100) / 100],
  [18, 'sum', (random, before) => before + Math.floor(random() * 40_000) * (random() < 0.3 ? 0 : 1)],
  [8, 'sum', (random, before) => before + Math.floor(random() * 30)],
  [16, 'gauge', (random, before) => Math.max(4096, before + Math.round((random() - 0.5) * 200) * 4096)],
  [16, 'gauge', (random, before) => (random() < 0.02 ? before + 1 : before || 8)],
  [7, 'gauge', (random) => random()],
  [5, 'gauge', (random) => Math.round(1e7 + random() * 1e6) / 1e9],
  [2, 'histogram', (random, before) => before + Math.floor(random() * 5)]
];

/** Values of the senders' series from one batch to the next; every run sends the same. */
export class MetricSenders {
  readonly #made: Made[];
  readonly #values: Float64Array;
  #seed = 7;

  constructor(senders: number) {
    this.#made = MIX.flatMap(([count, kind, next], of) =>
      Array.from({ length: count }, (_, i) => ({
        name: `bench.counter.${of}`,
        attributes: [
          ['device', `d${i}`],
          ['state', i % 2 === 0 ? 'user' : 'system']
        ] as [string, string][],
        kind,
        next
      }))
    );
    this.#values = new Float64Array(senders * this.#made.length);
  }

  get perSender(): number {
    return this.#made.length;
  }

  #random = (): number => {
    this.#seed = (Math.imul(this.#seed, 1_664_525) + 1_013_904_223) >>> 0;
    return this.#seed / 2 ** 32;
  };

  /** One sender's points of so many rounds, as one message. */
  batch(sender: number, fromMs: number, stepMs: number, rounds: number): Uint8Array {
    const writer = protobuf.Writer.create();
    // ExportMetricsServiceRequest.resource_metrics; within: resource, scope_metrics, its metrics.
    writer.uint32(10).fork();
    writer.uint32(10).fork();
    for (const [key, value] of [
      ['service.name', `service-${sender}`],
      ['host.name', `quay-${sender}`]
    ])
      pair(writer, 1, key, value);
    writer.ldelim();
    writer.uint32(18).fork();
    const ats = Array.from(
      { length: rounds },
      (_, i) => fromMs + i * stepMs + Math.floor(this.#random() * 4)
    );
    this.#made.forEach((made, i) => {
      this.#metric(writer, made, sender * this.#made.length + i, ats);
    });
    writer.ldelim();
    writer.ldelim();
    return writer.finish();
  }

  #metric(
    writer: protobuf.Writer,
    { name, attributes, kind, next }: Made,
    at: number,
    ats: readonly number[]
  ): void {
    writer.uint32(18).fork();
    writer.uint32(10).string(name);
    writer.uint32({ gauge: 42, sum: 58, histogram: 74 }[kind]).fork();
    for (const ms of ats) {
      const value = (this.#values[at] = next(this.#random, this.#values[at]));
      writer.uint32(10).fork();
      for (const [key, text] of attributes) pair(writer, kind === 'histogram' ? 9 : 7, key, text);
      nanos(writer.uint32(25), ms);
      if (kind === 'histogram') {
        writer.uint32(33).fixed64(value);
        writer.uint32(41).double(value / 3);
        writer.uint32(50).fork();
        for (let bucket = 0; bucket < 6; bucket++) writer.fixed64(bucket === 2 ? value : 0);
        writer.ldelim();
        writer.uint32(58).fork();
        for (const bound of [1, 5, 10, 50, 100]) writer.double(bound);
        writer.ldelim();
      } else writer.uint32(33).double(value);
      writer.ldelim();
    }
    if (kind !== 'gauge') writer.uint32(16).int32(2);
    if (kind === 'sum') writer.uint32(24).bool(true);
    writer.ldelim();
    writer.ldelim();
  }
}

function pair(writer: protobuf.Writer, field: number, key: string, value: string): void {
  writer.uint32((field << 3) | 2).fork();
  writer.uint32(10).string(key);
  writer.uint32(18).fork().uint32(10).string(value).ldelim();
  writer.ldelim();
}

/** Epoch milliseconds as `fixed64` nanoseconds. */
function nanos(writer: protobuf.Writer, ms: number): void {
  const ns = BigInt(ms) * 1_000_000n;
  writer.fixed32(Number(ns & 0xffffffffn)).fixed32(Number(ns >> 32n));
}
