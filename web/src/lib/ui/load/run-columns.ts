import type { LoadFigures } from '@tromix/core/load/figures';
import { FAULT_WORDS } from '@tromix/core/load/samples';
import type { SampleRow } from '@tromix/core/load/sample-rows';
import {
  bytesColumn,
  countColumn,
  durationColumn,
  rareColumn,
  textColumn
} from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';

/** A step with its figures. */
export interface StepRow {
  number: number;
  name: string;
  figures: LoadFigures;
}

const ns = (us: number): number | null => (Number.isFinite(us) ? us * 1000 : null);

export const STEP_COLUMNS: Column<StepRow>[] = [
  textColumn('step', 'step', ({ name }) => name, { width: 150, grows: true }),
  countColumn('samples', 'samples', ({ figures }) => figures.samples, { width: 74 }),
  rareColumn('failed', 'failed', ({ figures }) => figures.failed, { width: 60 }),
  durationColumn('mean', 'mean', ({ figures }) => ns(figures.meanUs)),
  durationColumn('deviation', 'std. dev.', ({ figures }) => ns(figures.deviationUs), {
    about: 'Standard deviation of the sample (n − 1)'
  }),
  durationColumn('min', 'min', ({ figures }) => ns(figures.minUs)),
  durationColumn('median', 'median', ({ figures }) => ns(figures.medianUs)),
  durationColumn('p95', 'p95', ({ figures }) => ns(figures.p95Us)),
  durationColumn('p99', 'p99', ({ figures }) => ns(figures.p99Us)),
  durationColumn('max', 'max', ({ figures }) => ns(figures.maxUs)),
  bytesColumn('bytes', 'bytes', ({ figures }) => figures.bytes, { width: 78 })
];

/** Columns of single requests. @param stepNames names of the steps, in their order */
export const sampleColumns = (stepNames: readonly string[]): Column<SampleRow>[] => [
  {
    key: 'at',
    title: 'after the start',
    width: 100,
    right: true,
    value: ({ intendedUs }) => intendedUs,
    text: ({ intendedUs }) => `${(intendedUs / 1e6).toFixed(3)} s`
  },
  textColumn('step', 'step', ({ step }) => stepNames[step], { width: 150, grows: true }),
  countColumn('user', 'user', ({ user }) => user + 1, { width: 60 }),
  durationColumn('response', 'response', ({ responseUs }) => responseUs * 1000),
  durationColumn('late', 'sent late by', ({ lateUs }) => lateUs * 1000, {
    width: 90,
    about: 'How much later the driver sent it than planned'
  }),
  textColumn('status', 'status', ({ status }) => (status === 0 ? '' : String(status)), {
    width: 60,
    right: true
  }),
  bytesColumn('bytes', 'bytes', ({ bytes }) => bytes, { width: 78 }),
  textColumn('fault', 'failure', ({ fault }) => (fault === '' ? '' : FAULT_WORDS[fault]), { width: 180 })
];
