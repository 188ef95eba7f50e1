import { SpanKind, type Attributes } from '@opentelemetry/api';
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
    if (span.kind === SpanKind.CLIENT || span.kind === SpanKind.PRODUCER) span.setAttributes(this.now());
  }

  /** The line of the program that is running now; nothing where the budget is used up, or no frame is the program's own. */
  now(): Attributes {
    const site = this.#budget.take() ? callSite(this.#places, this.#own) : null;
    if (!site) return {};
    const { file, line, function: name } = site;
    return {
      'code.file.path': file,
      'code.line.number': line,
      ...(name ? { 'code.function.name': name } : {})
    };
  }

  onEnd(): void {}
  forceFlush = async (): Promise<void> => {};
  shutdown = async (): Promise<void> => {};
}
