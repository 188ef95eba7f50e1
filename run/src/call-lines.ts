import { SpanKind } from '@opentelemetry/api';
import type { Span, SpanProcessor } from '@opentelemetry/sdk-trace-base';
import { Budget } from './budget';
import { callSite } from './call-site';
import { SourcePlaces } from './source-places';

/** Stacks looked at in a second; the calls beyond have no line. */
const STACKS_PER_SECOND = 1000;

/** Names the line of the program that made a call (`code.*` of the semantic conventions for source code). */
export class CallLines implements SpanProcessor {
  readonly #places = new SourcePlaces();
  readonly #budget = new Budget(STACKS_PER_SECOND);
  readonly #own: string;

  /** @param own file of this program, of which frames are passed over */
  constructor(own: string) {
    this.#own = own;
  }

  onStart(span: Span): void {
    if (span.kind !== SpanKind.CLIENT && span.kind !== SpanKind.PRODUCER) return;
    if (!this.#budget.take()) return;
    const site = callSite(this.#places, this.#own);
    if (!site) return;
    span.setAttributes({ 'code.file.path': site.file, 'code.line.number': site.line });
    if (site.function) span.setAttribute('code.function.name', site.function);
  }

  onEnd(): void {}
  forceFlush = async (): Promise<void> => {};
  shutdown = async (): Promise<void> => {};
}
