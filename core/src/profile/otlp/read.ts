import { EvidenceError, Warnings, type Warning } from '../../formats/evidence-error';
import { intOf, listOf, momentOf, type Loose, type Moment } from '../../formats/otlp/values';
import { FrameTable } from '../frame-table';
import { LabelTable } from '../label-table';
import { LineCounts } from '../line-counts';
import type { Profile } from '../model';
import { measureOf } from '../protobuf/values';
import { StackBuilder } from '../stack-builder';
import { ThreadTable } from '../thread-table';
import { Dictionary, type ToldStack } from './dictionary';
import { decodeOtlpProfiles, type ToldProfile } from './document';

/** One of the profiles of a file, and what else can be chosen. */
export interface OtlpProfile {
  profile: Profile;
  /** All there are, in the file's order: by what they measure, and whose they are where there are several processes. */
  measures: string[];
  /** Epoch microseconds; null where it is not said. */
  startedAtUs: number | null;
  warnings: Warning[];
}

/** Attributes that name the thread of a sample (OpenTelemetry semantic conventions, `thread.*`). */
const THREAD_NAME = 'thread.name';
const THREAD_ID = 'thread.id';

/**
 * Reads OTLP profiles of the schema `v1development`. Where each sample has a time, stretches of time can be chosen.
 * @param content inflated: protobuf or JSON. @param wanted which of several profiles; '' for the first.
 * @throws EvidenceError `empty`, `otlp-damaged`, `json-damaged`, `not-otlp`, `too-many-parts`, `not-a-profile`.
 */
export function readOtlpProfile(content: Uint8Array, wanted = ''): OtlpProfile {
  if (content.length === 0)
    throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  const { profiles, dictionary } = decodeOtlpProfiles(content);
  if (profiles.length === 0)
    throw new EvidenceError('not-a-profile', 'The OTLP message holds no profile. Send one with its samples.');
  const warnings = new Warnings();
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const tables = new Dictionary(dictionary, table, warnings);
  const measures = namesOf(profiles, tables);
  const chosen = Math.max(0, measures.indexOf(wanted));
  const { profile } = profiles[chosen];
  const { factor, ...measured } = weighed(profile, tables);
  const samples = samplesOf(profile, tables, factor, warnings);
  const tree = new SampleTree(builder, samples);
  const stacks = builder.tree(table.frames.length);
  const { startedAtUs, ...times } = timesOf(
    samples,
    measured.unit,
    momentOf(profile.timeUnixNano),
    Math.max(0, intOf(profile.durationNano))
  );
  return {
    profile: {
      ...measured,
      measure: measures[chosen],
      frames: table.frames,
      ...stacks,
      ...tree.columns(warnings),
      ...times,
      ticks: tree.lines.ticks(stacks.nodeFrame.length)
    },
    measures,
    startedAtUs,
    warnings: warnings.list()
  };
}

/** What each profile is called; those that would be called alike are counted. */
function namesOf(profiles: readonly ToldProfile[], tables: Dictionary): string[] {
  const services = new Set(profiles.map(({ resource }) => resource.service));
  const seen = new Map<string, number>();
  return profiles.map(({ profile, resource }) => {
    const type = tables.text((profile.sampleType as Loose | undefined)?.typeStrindex) || 'samples';
    const name = services.size > 1 ? `${type} of ${resource.service}` : type;
    const count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    return count > 1 ? `${name} (${count})` : name;
  });
}

/** What the values of a profile are. Samples that are counted stand for time where it is told how often they were taken. */
function weighed(
  { sampleType, periodType, period }: Loose,
  tables: Dictionary
): ReturnType<typeof measureOf> {
  const of = (told: unknown): ReturnType<typeof measureOf> => {
    const { typeStrindex, unitStrindex } = (told ?? {}) as Loose;
    return measureOf(tables.text(typeStrindex), tables.text(unitStrindex));
  };
  const value = of(sampleType);
  const every = of(periodType);
  const between = intOf(period) * every.factor;
  return value.unit === 'count' && value.valueType === 'cpu' && every.unit === 'nanoseconds' && between > 0
    ? { ...every, factor: between }
    : value;
}

interface ToldSample {
  stack: ToldStack;
  thread: string;
  labels: [key: string, value: string][];
  weight: number;
  /** Null where it is not told. */
  at: Moment | null;
}

/** One for each value or moment of a sample: those of one stack are sent together. */
function samplesOf(profile: Loose, tables: Dictionary, factor: number, warnings: Warnings): ToldSample[] {
  const samples: ToldSample[] = [];
  for (const sample of listOf(profile.samples)) {
    const values = listed(sample.values);
    const times = listed(sample.timestampsUnixNano);
    if (values.length > 0 && times.length > 0 && values.length !== times.length)
      warnings.add(
        'times-missing',
        'A sample has not as many moments as values; the values count without a time.'
      );
    const paired = values.length === 0 || values.length === times.length;
    const labels = [...tables.attributes(sample.attributeIndices)];
    const named = (name: string): string => labels.find(([key]) => key === name)?.[1] ?? '';
    const shared = {
      stack: tables.stack(sample.stackIndex),
      thread: named(THREAD_NAME) || named(THREAD_ID),
      labels: labels.filter(([key]) => key !== THREAD_NAME && key !== THREAD_ID)
    };
    for (let i = 0; i < (values.length || times.length); i++) {
      // Where only moments are told, each counts once.
      const weight = (values.length > 0 ? intOf(values[i]) : 1) * factor;
      if (weight < 0)
        warnings.add(
          'negative-weight',
          'A sample weighs less than nothing, as in a difference of two profiles; it was left out. Compare the two here instead.'
        );
      if (weight > 0) samples.push({ ...shared, weight, at: paired ? momentOf(times[i]) : null });
    }
  }
  const hasTimes = samples.every(({ at }) => at !== null);
  if (hasTimes) samples.sort((a, b) => a.at!.us - b.at!.us || a.at!.ns - b.at!.ns);
  return samples;
}

const listed = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

/** Samples as nodes of their stacks, threads and labels. */
class SampleTree {
  readonly lines = new LineCounts();
  readonly #node: Int32Array;
  readonly #weight: Float64Array;
  readonly #thread: Uint16Array;
  readonly #threads = new ThreadTable();
  readonly #labels = new LabelTable();

  constructor(builder: StackBuilder, samples: readonly ToldSample[]) {
    this.#node = new Int32Array(samples.length);
    this.#weight = new Float64Array(samples.length);
    this.#thread = new Uint16Array(samples.length);
    samples.forEach(({ stack, thread, labels, weight }, i) => {
      let node = 0;
      for (const frame of stack.frames) node = builder.child(node, frame);
      this.#node[i] = node;
      this.#weight[i] = weight;
      this.#thread[i] = this.#threads.numberOf(thread);
      for (const [key, value] of labels) this.#labels.add({ key, value });
      this.#labels.keep(i);
      if (stack.line > 0) this.lines.add(node, stack.line, weight);
    });
  }

  columns(
    warnings: Warnings
  ): Pick<Profile, 'sampleNode' | 'sampleWeight' | 'sampleThread' | 'threads' | 'labels'> {
    return {
      sampleNode: this.#node,
      sampleWeight: this.#weight,
      ...this.#threads.columns(this.#thread),
      ...this.#labels.columns(this.#node.length, warnings)
    };
  }
}

/** The moments of samples where each has one, with what it weighs as the time it stands for; else none, and only how long was recorded. */
function timesOf(
  samples: readonly ToldSample[],
  unit: Profile['unit'],
  begin: Moment | null,
  toldNs: number
): Pick<Profile, 'sampleTime' | 'durationNs' | 'recordedNs'> & { startedAtUs: number | null } {
  const first = samples[0]?.at ?? null;
  if (first === null || unit !== 'nanoseconds' || samples.some(({ at }) => at === null))
    return {
      sampleTime: new Float64Array(samples.length),
      durationNs: 0,
      ...(toldNs > 0 ? { recordedNs: toldNs } : {}),
      startedAtUs: begin?.us ?? null
    };
  const start = begin && nsFrom(begin, first) >= 0 ? begin : first;
  const sampleTime = Float64Array.from(samples, ({ at }) => nsFrom(start, at!));
  const lastNs = samples.reduce((most, { weight }, i) => Math.max(most, sampleTime[i] + weight), 0);
  return { sampleTime, durationNs: Math.max(toldNs, lastNs), startedAtUs: start.us };
}

/** From one moment to another: epoch nanoseconds themselves are beyond what a number holds exactly. */
const nsFrom = (from: Moment, to: Moment): number => (to.us - from.us) * 1000 + to.ns - from.ns;
