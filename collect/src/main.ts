import { collect } from './collect';
import { configOf } from './config';

/** A page that asks people first calls `tromix.consent()` once they agree. */
interface Tromix {
  consent: () => void;
}

const element = document.currentScript as HTMLScriptElement | null;
if (element?.src) {
  const config = configOf(element);
  let isStarted = false;
  const start = (): void => {
    if (isStarted) return;
    isStarted = true;
    // Whatever goes wrong in here, the page must not notice.
    try {
      collect(config);
    } catch {
      // It is not told then.
    }
  };
  (window as { tromix?: Tromix }).tromix = { consent: start };
  if (!config.asksFirst) start();
}
