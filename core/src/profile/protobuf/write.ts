import protobuf, { type Writer } from 'protobufjs/light.js';
import { BYTES, tag, VARINT } from '../../formats/wire';
import type { Profile, ValueType } from '../model';
import type { SelectedSample } from '../selected-samples';
import type { ShapedTree } from '../shape';

/** How a measure is called where the profile itself has no name for it (as Go's standard library calls its own). */
const NAMES: Record<ValueType, string> = {
  cpu: 'cpu',
  wall: 'wall',
  allocation: 'alloc_space',
  memory: 'inuse_space',
  waiting: 'delay',
  other: 'value'
};

/**
 * Samples as a protobuf profile, which is gzipped by whoever stores it: one sample for each stack, line, thread and set of labels. Weights become
 * whole numbers that add up to the whole rounded once. Only the innermost function's line is kept, since that of its callers is not known.
 * @param tree the profile's stacks after shaping. @param samples those selected, on the nodes of that tree.
 * @param startedAtUs epoch microseconds; null where it is not known. @returns not gzipped.
 */
export function writeProtobufProfile(
  profile: Profile,
  tree: ShapedTree,
  samples: Iterable<SelectedSample>,
  startedAtUs: number | null
): Uint8Array {
  return new ProtobufWriter(profile, tree).write(samples, startedAtUs);
}

interface Group {
  node: number;
  weight: number;
  thread: number;
  /** By label: index of its value; −1 where it has none. */
  labels: number[];
}

class ProtobufWriter {
  readonly #profile: Profile;
  readonly #tree: ShapedTree;
  readonly #writer = protobuf.Writer.create();
  readonly #texts = new Map<string, number>([['', 0]]);
  /** Frame and line → id. */
  readonly #locations = new Map<string, { id: number; frame: number; line: number }>();
  /** All weight so far, and what of it was written in whole numbers. */
  #weighed = 0;
  #written = 0;

  constructor(profile: Profile, tree: ShapedTree) {
    this.#profile = profile;
    this.#tree = tree;
  }

  write(samples: Iterable<SelectedSample>, startedAtUs: number | null): Uint8Array {
    const { unit, valueType, measure, durationNs, recordedNs = durationNs } = this.#profile;
    this.#message(1, (writer) => {
      number(writer, 1, this.#text(measure ?? NAMES[valueType]));
      number(writer, 2, this.#text(unit));
    });
    for (const group of this.#grouped(samples)) this.#sample(group);
    for (const { id, frame, line } of this.#locations.values())
      this.#message(4, (writer) => {
        number(writer, 1, id);
        writer.uint32(tag(4, BYTES)).fork();
        number(writer, 1, frame + 1);
        number(writer, 2, line);
        writer.ldelim();
      });
    for (const frame of new Set([...this.#locations.values()].map((location) => location.frame)))
      this.#function(frame);
    for (const text of this.#texts.keys()) this.#writer.uint32(tag(6, BYTES)).string(text);
    number(this.#writer, 9, startedAtUs === null ? 0 : Math.round(startedAtUs) * 1000);
    number(this.#writer, 10, Math.round(recordedNs));
    return this.#writer.finish();
  }

  #grouped(samples: Iterable<SelectedSample>): Iterable<Group> {
    const { sampleThread, labels = [] } = this.#profile;
    const groups = new Map<number | string, Group>();
    const isPlain = !sampleThread && labels.length === 0;
    for (const { sample, node, weightNs } of samples) {
      const thread = sampleThread?.[sample] ?? 0;
      const values = labels.map(({ sampleValue }) => sampleValue[sample]);
      const key = isPlain ? node : `${node} ${thread} ${values.join(' ')}`;
      const known = groups.get(key);
      if (known) known.weight += weightNs;
      else groups.set(key, { node, weight: weightNs, thread, labels: values });
    }
    return groups.values();
  }

  #sample(group: Group): void {
    for (const { line, weight } of this.#lines(group)) {
      this.#weighed += weight;
      const whole = Math.round(this.#weighed) - this.#written;
      this.#written += whole;
      if (whole <= 0) continue;
      this.#message(2, (writer) => {
        for (const id of this.#stack(group.node, line)) writer.uint32(tag(1, VARINT)).uint64(id);
        writer.uint32(tag(2, VARINT)).int64(whole);
        this.#labels(writer, group);
      });
    }
  }

  #labels(writer: Writer, { thread, labels: values }: Group): void {
    const { threads, labels = [] } = this.#profile;
    const label = (key: string, value: string): void => {
      writer.uint32(tag(3, BYTES)).fork();
      number(writer, 1, this.#text(key));
      number(writer, 2, this.#text(value));
      writer.ldelim();
    };
    if (threads.length > 1) label('thread', threads[thread]);
    values.forEach((value, i) => value >= 0 && label(labels[i].key, labels[i].values[value]));
  }

  /** The weight of a stack by the lines its innermost function was at. */
  *#lines({ node, weight }: Group): Iterable<{ line: number; weight: number }> {
    const { ticks, frames } = this.#profile;
    const isOwn = this.#tree.nodeFrame === this.#profile.nodeFrame;
    const [from, to] = ticks && isOwn ? [ticks.start[node], ticks.start[node + 1]] : [0, 0];
    let sum = 0;
    for (let i = from; i < to; i++) sum += ticks!.ticks[i];
    if (sum === 0) yield { line: frames[this.#tree.nodeFrame[node]].line, weight };
    for (let i = from; i < to; i++) yield { line: ticks!.line[i], weight: (weight * ticks!.ticks[i]) / sum };
  }

  /** Ids of the locations of a stack, the innermost first; the root of all is none. */
  *#stack(node: number, line: number): Iterable<number> {
    const { nodeFrame, nodeParent } = this.#tree;
    const { frames } = this.#profile;
    for (let at = node; at >= 0; at = nodeParent[at]) {
      const frame = nodeFrame[at];
      if (frames[frame].kind === 'root') return;
      yield this.#location(frame, at === node ? line : frames[frame].line);
    }
  }

  #location(frame: number, line: number): number {
    const key = `${frame} ${line}`;
    let known = this.#locations.get(key);
    if (!known) this.#locations.set(key, (known = { id: this.#locations.size + 1, frame, line }));
    return known.id;
  }

  #function(frame: number): void {
    const { name, file, line } = this.#profile.frames[frame];
    this.#message(5, (writer) => {
      number(writer, 1, frame + 1);
      number(writer, 2, this.#text(name));
      number(writer, 3, this.#text(name));
      number(writer, 4, this.#text(file));
      number(writer, 5, line);
    });
  }

  #text(text: string): number {
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    this.#texts.set(text, this.#texts.size);
    return this.#texts.size - 1;
  }

  #message(field: number, fill: (writer: Writer) => void): void {
    fill(this.#writer.uint32(tag(field, BYTES)).fork());
    this.#writer.ldelim();
  }
}

/** A number of a message; 0 is what is not written. */
function number(writer: Writer, field: number, value: number): void {
  if (value !== 0) writer.uint32(tag(field, VARINT)).int64(value);
}
