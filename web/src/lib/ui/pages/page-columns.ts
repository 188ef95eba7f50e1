import { VITAL_FACTS, VITALS } from '@tromix/core/pages/vitals';
import type { PageFigures } from '$lib/server/queries/pages/page-figures';
import { countColumn, rareColumn } from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';

/** A score, or points of one. */
export const formatScore = (score: number | null): string => (score === null ? '–' : score.toFixed(1));

/** The five vitals of a row, by how it tells them; the table shows each as a `VitalCell`. */
export const vitalColumns = <Row>(
  valueOf: (row: Row) => Record<(typeof VITALS)[number], number | null>,
  about: string
): Column<Row>[] =>
  VITALS.map((vital) => ({
    key: vital,
    title: vital.toUpperCase(),
    about: `${VITAL_FACTS[vital].title}, ${about}`,
    width: 66,
    right: true,
    value: (row) => valueOf(row)[vital]
  }));

/** What is told of loads that are summed up. */
export const figureColumns = <Row extends PageFigures>(): Column<Row>[] => [
  countColumn('loads', 'loads', ({ loads }) => loads, { width: 56 }),
  {
    key: 'score',
    title: 'score',
    about:
      'Mean over the loads, 0 to 100: each vital gives 1 up to its good limit, 0 from its poor one on; LCP and INP count twice',
    width: 54,
    right: true,
    value: ({ score }) => score,
    text: ({ score }) => formatScore(score)
  },
  ...vitalColumns<Row>(({ p75 }) => p75, 'at the 75th percentile, within 1 %'),
  rareColumn('errors', 'errors', ({ errors }) => errors, {
    width: 56,
    about: 'Errors that nothing on the page caught'
  })
];
