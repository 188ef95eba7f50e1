import { untrack } from 'svelte';

/** An answer that is asked for anew whenever its question changes. */
export interface Resource<A> {
  /** The answer; null before the first, and where nothing is asked. */
  readonly value: A | null;
  /** Why there is none; '' unless the last question failed. */
  readonly error: string;
  readonly asking: boolean;
  /** The answer belongs to an earlier question: that of the present one is awaited, or failed. */
  readonly outOfDate: boolean;
  /** Asks the same again. */
  again: () => void;
}

interface Options {
  /** The earlier answer stays, marked as out of date, until the next one is there. */
  keep?: boolean;
  /** Milliseconds to wait for a further change before it is asked. */
  afterMs?: number;
}

/**
 * To be made while a component is set up. Late answers to earlier questions are dropped, also those of a worker, which no signal
 * reaches: the ready-made `resource` of `runed` takes them for the answer to the present question, and so does not serve here.
 * @param question what is asked; its reads are tracked. null asks nothing.
 * @param ask its `signal` ends a fetch whose answer nobody waits for any more; its own reads are not tracked.
 */
export function resource<Q, A>(
  question: () => Q | null,
  ask: (question: Q, signal: AbortSignal) => Promise<A>,
  { keep = false, afterMs = 0 }: Options = {}
): Resource<A> {
  let value = $state.raw<A | null>(null);
  let error = $state('');
  let asking = $state(false);
  let outOfDate = $state(false);
  let attempt = $state(0);

  $effect(() => {
    void attempt;
    const asked = question();
    const left = new AbortController();
    error = '';
    asking = asked !== null;
    if (asked === null || !keep) value = null;
    outOfDate = asked !== null && keep;
    if (asked === null) return;
    const start = (): void => {
      untrack(() => ask(asked, left.signal)).then(
        (answer) => {
          if (!left.signal.aborted) [value, asking, outOfDate] = [answer, false, false];
        },
        (cause: unknown) => {
          if (left.signal.aborted) return;
          [error, asking] = [cause instanceof Error ? cause.message : String(cause), false];
        }
      );
    };
    const timer = afterMs > 0 ? setTimeout(start, afterMs) : undefined;
    if (timer === undefined) start();
    return () => {
      clearTimeout(timer);
      left.abort();
    };
  });

  return {
    get value() {
      return value;
    },
    get error() {
      return error;
    },
    get asking() {
      return asking;
    },
    get outOfDate() {
      return outOfDate && value !== null;
    },
    again: () => void attempt++
  };
}
