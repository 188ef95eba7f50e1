import { formatBytes, formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import type { Column } from './columns';

type More<Row> = Partial<Omit<Column<Row>, 'key' | 'title' | 'value' | 'text' | 'right'>>;
type Maker = <Row>(
  key: string,
  title: string,
  value: (row: Row) => number | null,
  more?: More<Row>
) => Column<Row>;

/** A column of figures, which stand at the right and are sorted by their value; what is not known is a dash. */
const figures =
  (format: (value: number) => string, width: number): Maker =>
  (key, title, value, more) => ({
    key,
    title,
    width,
    right: true,
    value,
    text: (row) => {
      const figure = value(row);
      return figure === null ? '–' : format(figure);
    },
    ...more
  });

/** A column of words: what it shows is what it is sorted by; what is empty is a dash. */
export const textColumn = <Row>(
  key: string,
  title: string,
  value: (row: Row) => string,
  more?: Partial<Column<Row>>
): Column<Row> => ({ key, title, width: 110, value, text: (row) => value(row) || '–', ...more });

const sign =
  (format: (value: number) => string) =>
  (value: number): string =>
    value === 0 ? format(0) : `${value < 0 ? '−' : '+'}${format(Math.abs(value))}`;

export const signedCount = sign(formatCount);
export const signedBytes = sign(formatBytes);

export const countColumn = figures(formatCount, 84);
/** A count of which none is the rule, and left blank. */
export const rareColumn = figures((count) => (count === 0 ? '' : formatCount(count)), 66);
export const bytesColumn = figures(formatBytes, 90);
export const durationColumn = figures(formatDuration, 78);
export const shareColumn = figures(formatShare, 62);
/** So many per one of something. */
export const ratioColumn = figures((ratio) => ratio.toFixed(1), 92);
/** How many more, or fewer. */
export const moreColumn = figures(signedCount, 84);
export const moreBytesColumn = figures(signedBytes, 90);
