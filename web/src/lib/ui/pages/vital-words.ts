import { ratingOf, type Rating, type Vital } from '@tromix/core/pages/vitals';
import { formatDuration } from '@tromix/core/text/format';

/** A value of a vital: a duration, of shifts a score without unit. */
export const formatVital = (vital: Vital, value: number | null | undefined): string => {
  if (value === null || value === undefined) return '–';
  return vital === 'cls' ? value.toFixed(2) : formatDuration(value * 1e6);
};

export const RATING_WORDS: Record<Rating, string> = {
  good: 'good',
  middling: 'between good and poor',
  poor: 'poor'
};

/** Colour of what is written, and of what is drawn. */
export const RATING_INK: Record<Rating, string> = {
  good: 'text-ink',
  middling: 'text-ink',
  poor: 'text-alarm'
};
export const RATING_FILL: Record<Rating, string> = {
  good: 'var(--steer)',
  middling: 'color-mix(in oklab, var(--steer) 48%, var(--sheet))',
  poor: 'color-mix(in oklab, var(--alarm) 62%, var(--sheet))'
};

/** How a value stands to its limits; '' where nothing was measured. */
export const ratingWords = (vital: Vital, value: number | null | undefined): string =>
  value === null || value === undefined ? '' : RATING_WORDS[ratingOf(vital, value)];
