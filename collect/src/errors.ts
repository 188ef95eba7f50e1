import { ERROR, ERROR_EVENT } from '@tromix/core/pages/wire';
import type { SentEvent } from './otlp';

const MAX_MESSAGE = 500;
const MAX_STACK = 2000;
const MAX_ERRORS = 20;

/** Notes errors that nothing on the page caught, and promises that nobody waited for: a few, since one in a loop comes without end. */
export function watchErrors(note: (event: SentEvent) => void): void {
  let left = MAX_ERRORS;
  const tell = (thrown: unknown, message: string): void => {
    if (left-- <= 0) return;
    const error = thrown instanceof Error ? thrown : null;
    note({
      name: ERROR_EVENT,
      atMs: performance.now(),
      attributes: {
        [ERROR.type]: error?.name ?? 'Error',
        [ERROR.message]: (error?.message ?? message).slice(0, MAX_MESSAGE),
        [ERROR.stack]: error?.stack?.slice(0, MAX_STACK)
      }
    });
  };
  addEventListener('error', ({ error, message }) => tell(error, message));
  addEventListener('unhandledrejection', ({ reason }) => tell(reason, String(reason)));
}
