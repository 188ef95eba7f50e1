import type { Reader } from 'protobufjs';
import { EvidenceError, Warnings, type Warning } from '../../formats/evidence-error';
import { atEnd, BYTES, endOf, readerOf, tag, varint, VARINT } from '../../formats/wire';
import { NATIVE } from '../../whose/whose';
import { whoseAny } from '../../whose/any';
import { FrameTable } from '../frame-table';
import { LabelTable, type SampleLabelPair } from '../label-table';
import { LineCounts } from '../line-counts';
import type { Profile } from '../model';
import { StackBuilder } from '../stack-builder';
import { ThreadTable } from '../thread-table';
import { Tables, type LineRow } from './tables';
import { measureOf } from './values';

/** A protobuf profile, by one of the values its samples have. */
export interface ProtobufProfile {
  profile: Profile;
  /** What can be chosen instead, in the file's order: `inuse_space`. */
  measures: string[];
  /** Epoch microseconds; null where it is not said. */
  startedAtUs: number | null;
  warnings: Warning[];
}

/** Labels that name the thread a sample is of (common practice). */
const THREAD_KEYS = new Set(['thread', 'thread name', 'thread_name', 'thread id', 'thread_id', 'tid']);

/**
 * Reads a protobuf profile, as Go's standard library writes it. Stacks, functions and lines are exact; it has no time of a single sample, so that no
 * stretch of time can be chosen. Functions that the compiler put into their callers are frames of their own.
 * @param content inflated. @param wanted the measure that weighs; '' for the file's default, which is the last one where it says none (common practice).
 * @throws EvidenceError `empty`, `profile-damaged`, `not-a-profile`.
 */
export function readProtobufProfile(content: Uint8Array, wanted = ''): ProtobufProfile {
  if (content.length === 0)
    throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  const reader = readerOf(content);
  try {
    return new ProtobufReader(reader, wanted).read();
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError(
      'profile-damaged',
      `Expected a protobuf profile, but it is damaged at byte ${reader.pos} of ${content.length}: ${(cause as Error).message}. Record or copy it again.`,
      reader.pos
    );
  }
}

class ProtobufReader {
  readonly #reader: Reader;
  readonly #warnings = new Warnings();
  readonly #tables: Tables;
  readonly #table = new FrameTable();
  readonly #builder = new StackBuilder(this.#table.root());
  readonly #places = new PlacesById();
  /** Labels by where their name and their text stand in the table of texts. */
  readonly #labelAt = new Map<number, SampleLabelPair>();
  readonly #lines = new LineCounts();
  readonly #threads = new ThreadTable();
  readonly #labels = new LabelTable();
  readonly #measures: string[];
  readonly #value: number;
  readonly #factor: number;
  readonly #measured: Pick<Profile, 'valueType' | 'unit'>;

  constructor(reader: Reader, wanted: string) {
    this.#reader = reader;
    const tables = (this.#tables = new Tables(reader, this.#warnings));
    if (tables.types.length === 0)
      throw new EvidenceError(
        'not-a-profile',
        'Expected a protobuf profile, but it does not say what its values are. Record it again.'
      );
    this.#measures = tables.types.map(({ type }) => tables.text(type));
    const asked = this.#measures.indexOf(wanted || tables.text(tables.defaultType));
    this.#value = asked >= 0 ? asked : this.#measures.length - 1;
    const { type, unit } = tables.types[this.#value];
    const { factor, ...measured } = measureOf(tables.text(type), tables.text(unit));
    [this.#factor, this.#measured] = [factor, measured];
  }

  read(): ProtobufProfile {
    const { samples, timeNs, durationNs } = this.#tables;
    const node = new Int32Array(samples);
    const weight = new Float64Array(samples);
    const thread = new Uint16Array(samples);
    let count = 0;
    const reader = this.#reader;
    reader.pos = 0;
    while (reader.pos < reader.len) {
      const found = reader.uint32();
      if (found !== tag(2, BYTES)) {
        reader.skipType(found & 7);
        continue;
      }
      const sample = this.#sample();
      if (sample.weight <= 0) {
        if (sample.weight < 0)
          this.#warnings.add(
            'negative-weight',
            'A sample weighs less than nothing, as in a difference of two profiles; it was left out. Compare the two here instead.'
          );
        this.#labels.drop();
        continue;
      }
      node[count] = sample.node;
      weight[count] = sample.weight;
      thread[count] = this.#threads.numberOf(sample.thread);
      this.#labels.keep(count++);
      if (sample.line > 0) this.#lines.add(sample.node, sample.line, sample.weight);
    }
    const tree = this.#builder.tree(this.#table.frames.length);
    const profile: Profile = {
      ...this.#measured,
      measure: this.#measures[this.#value],
      frames: this.#table.frames,
      ...tree,
      sampleNode: node.slice(0, count),
      sampleTime: new Float64Array(count),
      sampleWeight: weight.slice(0, count),
      ...this.#threads.columns(thread.slice(0, count)),
      durationNs: 0,
      ticks: this.#lines.ticks(tree.nodeFrame.length),
      ...(durationNs > 0 ? { recordedNs: durationNs } : {}),
      ...this.#labels.columns(count, this.#warnings)
    };
    return {
      profile,
      measures: this.#measures,
      startedAtUs: timeNs > 0 ? Math.round(timeNs / 1000) : null,
      warnings: this.#warnings.list()
    };
  }

  /** The sample at hand: its stack as a node, with the line at which it was. */
  #sample(): { node: number; line: number; weight: number; thread: string } {
    const reader = this.#reader;
    const end = endOf(reader);
    const sample = { node: 0, line: 0, weight: 0, thread: '' };
    let [depth, values] = [0, 0];
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === tag(1, VARINT)) stack[depth++] = varint(reader);
      else if (found === tag(1, BYTES)) depth = packed(reader, stack, depth);
      else if (found === tag(2, VARINT)) weights[values++] = varint(reader);
      else if (found === tag(2, BYTES)) values = packed(reader, weights, values);
      else if (found === tag(3, BYTES)) this.#label(sample);
      else reader.skipType(found & 7);
    }
    atEnd(reader, end);
    sample.weight = values > this.#value ? weights[this.#value] * this.#factor : 0;
    // What weighs nothing needs no stack.
    if (sample.weight <= 0) return sample;
    // The first location is the innermost.
    for (let i = depth - 1; i >= 0; i--) {
      const place = this.#places.get(stack[i]) ?? this.#location(stack[i]);
      if (place.more === null) sample.node = this.#builder.child(sample.node, place.frame);
      else for (const frame of place.more) sample.node = this.#builder.child(sample.node, frame);
      sample.line = place.line;
    }
    return sample;
  }

  #label(sample: { thread: string }): void {
    const reader = this.#reader;
    const end = endOf(reader);
    let [key, text, number, unit] = [0, 0, 0, 0];
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === tag(1, VARINT)) key = varint(reader);
      else if (found === tag(2, VARINT)) text = varint(reader);
      else if (found === tag(3, VARINT)) number = varint(reader);
      else if (found === tag(4, VARINT)) unit = varint(reader);
      else reader.skipType(found & 7);
    }
    atEnd(reader, end);
    const known = text > 0 ? this.#labelAt.get(key * 2 ** 26 + text) : undefined;
    if (known) return this.#labels.add(known);
    const tables = this.#tables;
    const name = tables.text(key);
    const value = text > 0 ? tables.text(text) : `${number}${unit > 0 ? ` ${tables.text(unit)}` : ''}`;
    if (THREAD_KEYS.has(name.toLowerCase())) sample.thread ||= value;
    else if (name !== '') {
      const pair = { key: name, value };
      if (text > 0 && text < 2 ** 26) this.#labelAt.set(key * 2 ** 26 + text, pair);
      this.#labels.add(pair);
    }
  }

  #location(id: number): Place {
    const row = this.#tables.locations.get(id);
    if (!row) this.#warnings.add('unknown-location', 'A sample names a location that is not in the profile.');
    const lines = row?.lines ?? [];
    const frames =
      lines.length > 0
        ? lines.map((line) => this.#frame(line)).reverse()
        : [
            this.#table.atAddress(
              row?.address ?? 0,
              this.#tables.text(this.#tables.mappings.get(row?.mappingId ?? 0) ?? 0)
            )
          ];
    const made: Place = {
      frame: frames[0],
      more: frames.length > 1 ? frames : null,
      line: Math.max(0, lines[0]?.line ?? 0)
    };
    this.#places.set(id, made);
    return made;
  }

  #frame({ functionId }: LineRow): number {
    const tables = this.#tables;
    const row = tables.functions.get(functionId);
    if (!row) {
      this.#warnings.add('unknown-function', 'A location names a function that is not in the profile.');
      return this.#table.indexOf('(unknown)', '', 0, 0, NATIVE);
    }
    const name = tables.text(row.name) || tables.text(row.systemName) || '(anonymous)';
    const file = tables.text(row.file);
    return this.#table.indexOf(name, file, Math.max(0, row.startLine), 0, whoseAny(name, file));
  }
}

/** Locations and values of the sample at hand: one list for all, since there are very many samples. */
const stack: number[] = [];
const weights: number[] = [];

/** Reads numbers one after another, without a tag for each. @returns how many the list has then */
function packed(reader: Reader, list: number[], count: number): number {
  const end = endOf(reader);
  while (reader.pos < end) list[count++] = varint(reader);
  atEnd(reader, end);
  return count;
}

/** The frames of a location, and the line of the innermost. */
interface Place {
  /** The only one. */
  frame: number;
  /** All of them, outermost first, where the compiler put functions into their callers; else null. */
  more: number[] | null;
  line: number;
}

/** Places by the id of their location: nearly always small numbers, of which a list is quicker than a map. */
class PlacesById {
  readonly #small: (Place | undefined)[] = [];
  readonly #others = new Map<number, Place>();

  get(id: number): Place | undefined {
    return id >= 0 && id < MOST_SMALL ? this.#small[id] : this.#others.get(id);
  }

  set(id: number, place: Place): void {
    if (id < 0 || id >= MOST_SMALL) this.#others.set(id, place);
    else {
      while (this.#small.length <= id) this.#small.push(undefined);
      this.#small[id] = place;
    }
  }
}
const MOST_SMALL = 1_000_000;
