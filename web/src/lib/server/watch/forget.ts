import { change } from '../workers';
import { repeatedly } from './schedule';

const HOUR_MS = 3_600_000;
/** What was sent is listed so long, and when watches were on as long as the coarse sums are kept; days. */
const KEEP_DELIVERIES = 30;
const KEEP_FIRINGS = 400;

/** Lets go of what was told long ago, until the server ends. */
export const keepForgetting = (): void =>
  repeatedly(
    HOUR_MS,
    () => {
      const nowMs = Date.now();
      return change(
        'forgetNotices',
        (nowMs - KEEP_DELIVERIES * 24 * HOUR_MS) * 1000,
        Math.floor(nowMs / 60_000) - KEEP_FIRINGS * 1440
      );
    },
    (cause) => console.error('What was told long ago could not be let go of.', cause)
  );
