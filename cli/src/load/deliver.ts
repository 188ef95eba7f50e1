import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { maskedPlan } from '@tromix/core/load/masked-plan';
import { writeRun, type LoadRun } from '@tromix/core/load/run-file';
import { runResource, spanOf } from '@tromix/core/load/spans';

const TIMEOUT_MS = 10_000;

/** Hands a run to Tromix: its spans while it goes on, its file at the end. The run never waits for it, nor fails with it. */
export class Delivery {
  readonly #address: string;
  readonly #headers: Record<string, string>;
  #sent = 0;
  #queue: Promise<unknown> = Promise.resolve();
  /** Why the last thing did not arrive; '' where everything did. */
  failure = '';

  /** @param address of Tromix, without a path. @param token '' for none */
  constructor(address: string, token: string) {
    this.#address = address.replace(/\/+$/, '');
    this.#headers = token ? { authorization: `Bearer ${token}` } : {};
  }

  /** Sends the spans of what is new since the last time. */
  spans(run: LoadRun): void {
    const resource = runResource(run);
    const plan = maskedPlan(run.plan);
    const spans = [];
    for (; this.#sent < run.samples.length; this.#sent++)
      spans.push(spanOf(resource, plan, run.startedAtUs, run.samples.at(this.#sent)));
    if (spans.length > 0) this.#post('/v1/traces', 'application/json', writeTracesJson(spans));
  }

  /** Sends the file. @returns whether it arrived */
  async run(run: LoadRun): Promise<boolean> {
    this.spans(run);
    this.#post('/api/evidence', 'application/octet-stream', writeRun({ ...run, plan: maskedPlan(run.plan) }));
    await this.#queue;
    return this.failure === '';
  }

  #post(path: string, type: string, body: string): void {
    this.#queue = this.#queue.then(async () => {
      try {
        const response = await fetch(this.#address + path, {
          method: 'POST',
          headers: { 'content-type': type, ...this.#headers },
          body,
          signal: AbortSignal.timeout(TIMEOUT_MS)
        });
        const answer = await response.text();
        if (!response.ok)
          this.failure = `Tromix at ${this.#address} refused it (${response.status}): ${answer.slice(0, 200)}`;
      } catch {
        this.failure = `Tromix does not answer at ${this.#address}: the run is not kept there.`;
      }
    });
  }
}
