import type { BoardChart } from '@tromix/core/watch/board';
import type { Condition } from '@tromix/core/watch/condition';
import { watchedWords } from '@tromix/core/watch/words';
import { endOf } from './place-words';

/** A watch on a figure of a board, and when it was on. */
export interface BoardWatch {
  id: string;
  name: string;
  condition: Condition;
  firings: { onMinute: number; offMinute: number | null }[];
}

export const chartTitle = ({ title, figures }: BoardChart): string => title || watchedWords(figures[0]);

export const bandsOf = (
  watches: readonly BoardWatch[],
  toMs: number
): { from: number; to: number; name: string }[] =>
  watches.flatMap(({ name, firings }) =>
    firings.map(({ onMinute, offMinute }) => ({
      from: endOf(onMinute),
      to: offMinute === null ? toMs : endOf(offMinute),
      name
    }))
  );
