import * as v from 'valibot';
import { EvidenceError } from '../formats/evidence-error';
import { parseJson } from '../formats/parse-json';
import { inTimeRange } from '../trace/time-range';
import { LIMITS, LoadPlan } from './plan';
import { isRunKey } from './trace-ids';
import { COLUMNS, FAULTS, Samples, type Sample } from './samples';

/** How a run ended. */
export const ENDS = ['done', 'stopped', 'gave-up', 'cut-off', 'full'] as const;
export type LoadEnd = (typeof ENDS)[number];
export const END_WORDS: Record<LoadEnd, string> = {
  done: 'ended as planned',
  stopped: 'was stopped',
  'gave-up': 'gave up after too many failures in a row',
  'cut-off': 'was cut off: the server stopped in the middle of it',
  full: 'ended when it had as many samples as are kept'
};

/** A load run as a whole. */
export interface LoadRun {
  /** Left half of the ids of its traces. */
  key: string;
  name: string;
  /** Epoch microseconds. */
  startedAtUs: number;
  /** How long it ran, microseconds. */
  endUs: number;
  end: LoadEnd;
  /** Secrets in its headers and bodies are masked. */
  plan: LoadPlan;
  samples: Samples;
}

export const LOAD_FORMATS = ['tromix-load-run'] as const;
export type LoadFormat = (typeof LOAD_FORMATS)[number];

const Column = v.array(v.pipe(v.number(), v.finite(), v.minValue(0)));
/** The file of a run, version 1: docs/load-run.schema.json says the same as JSON Schema. */
export const RunFile = v.object({
  format: v.literal('tromix-load-run'),
  version: v.literal(1),
  key: v.pipe(v.string(), v.check(isRunKey, 'expected 16 hexadecimal digits')),
  name: v.pipe(v.string(), v.maxLength(200)),
  startedAtUs: v.pipe(v.number(), v.integer(), v.check(inTimeRange, 'expected epoch microseconds')),
  endUs: v.pipe(v.number(), v.minValue(0), v.maxValue(LIMITS.seconds * 2e6)),
  end: v.picklist(ENDS),
  plan: LoadPlan,
  faults: v.array(v.string()),
  samples: v.object(
    Object.fromEntries(COLUMNS.map((name) => [name, Column])) as Record<keyof Sample, typeof Column>
  )
});

/** A run as JSON. Numbers of faults are indexes into its own list of their names. */
export function writeRun(run: LoadRun): string {
  const { samples, ...rest } = run;
  const columns = Object.fromEntries(
    COLUMNS.map((name) => [name, Array.from(samples.column(name), (value) => Math.round(value))])
  );
  return `${JSON.stringify({ format: LOAD_FORMATS[0], version: 1, ...rest, faults: FAULTS, samples: columns })}\n`;
}

/** By the beginning of a file. */
export const recogniseRun = ({ text }: { text: string }): LoadFormat | null =>
  /^\{\s*"format"\s*:\s*"tromix-load-run"/.test(text) ? 'tromix-load-run' : null;

/**
 * Reads the file of a run.
 * @throws EvidenceError `not-json` for what is no JSON, `not-a-run` for another shape, saying where.
 */
export function readRun(bytes: Uint8Array): LoadRun {
  let value: unknown;
  try {
    value = parseJson(new TextDecoder().decode(bytes));
  } catch (cause) {
    throw new EvidenceError('not-json', `Expected a load run as JSON. ${(cause as Error).message}.`, 0);
  }
  const read = v.safeParse(RunFile, value);
  if (!read.success) {
    const [issue] = read.issues;
    const place = (issue.path ?? []).map(({ key }) => String(key)).join('.');
    throw new EvidenceError(
      'not-a-run',
      `Expected a load run of version 1, but ${place || 'the document'} is not as expected: ${issue.message}.`,
      0
    );
  }
  const { samples: columns, faults, key, name, startedAtUs, endUs, end, plan } = read.output;
  const count = columns.step.length;
  const uneven = COLUMNS.find((column) => columns[column].length !== count);
  if (uneven !== undefined || count > LIMITS.samples)
    throw new EvidenceError(
      'not-a-run',
      uneven === undefined
        ? `Expected at most ${LIMITS.samples} samples, but found ${count}.`
        : `Expected ${count} values in samples.${uneven} as in samples.step, but found ${columns[uneven].length}.`,
      0
    );
  const samples = new Samples();
  for (let i = 0; i < count; i++) {
    const sample = Object.fromEntries(
      COLUMNS.map((column) => [column, columns[column][i]])
    ) as unknown as Sample;
    if (!(sample.step in plan.steps))
      throw new EvidenceError('not-a-run', `Sample ${i + 1} is of a step that the plan does not have.`, 0);
    samples.add({ ...sample, fault: faultNumber(faults, sample.fault) });
  }
  return { key, name, startedAtUs, endUs, end, plan, samples };
}

/** A fault of another version of the list counts as one all the same. */
function faultNumber(faults: readonly string[], fault: number): number {
  if (fault === 0) return 0;
  const known = (FAULTS as readonly string[]).indexOf(faults[fault] ?? '');
  return known > 0 ? known : FAULTS.indexOf('status');
}
