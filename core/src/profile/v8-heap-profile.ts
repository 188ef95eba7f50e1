import { damagedJson, parseJson } from '../formats/parse-json';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { FrameTable, type V8CallFrame } from './frame-table';
import type { Profile } from './model';
import { StackBuilder } from './stack-builder';

interface Node {
  callFrame: V8CallFrame;
  selfSize: number;
  children?: Node[];
}

/**
 * Reads a V8 sampling heap profile: the `HeapProfiler.SamplingHeapProfile` type of the Chrome DevTools Protocol. Its
 * weights are bytes allocated, by the stack that allocated them; it knows no times.
 * @param content the file's bytes, UTF-8, not gzip.
 * @throws EvidenceError `empty`, `json-damaged`, `not-a-profile`.
 */
export function readV8HeapProfile(content: Uint8Array): { profile: Profile; warnings: Warning[] } {
  const head = parse(content);
  const warnings = new Warnings();
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const node: number[] = [];
  const weight: number[] = [];
  // A stack of its own, not recursion: a tree may be as deep as the program's stack was.
  const open: { raw: Node; at: number }[] = [{ raw: head, at: 0 }];
  for (let next = open.pop(); next; next = open.pop()) {
    const { raw, at } = next;
    if (Number.isFinite(raw.selfSize) && raw.selfSize > 0) {
      node.push(at);
      weight.push(raw.selfSize);
    } else if (raw.selfSize !== 0) {
      warnings.add('no-size', 'A node has no size of its own, or a negative one; it was counted as 0 bytes.');
    }
    for (const child of Array.isArray(raw.children) ? raw.children : []) {
      if (typeof child?.callFrame !== 'object' || child.callFrame === null) {
        warnings.add('no-call-frame', 'A node names no function; it was left out with all below it.');
        continue;
      }
      open.push({ raw: child, at: builder.child(at, table.ofCall(child.callFrame)) });
    }
  }
  const profile: Profile = {
    valueType: 'allocation',
    unit: 'bytes',
    frames: table.frames,
    ...builder.tree(table.frames.length),
    sampleNode: Int32Array.from(node),
    sampleTime: new Float64Array(node.length),
    sampleWeight: Float64Array.from(weight),
    sampleThread: null,
    threads: ['main'],
    durationNs: 0,
    ticks: null
  };
  return { profile, warnings: warnings.list() };
}

function parse(content: Uint8Array): Node {
  if (content.length === 0)
    throw new EvidenceError('empty', 'The file is empty. Choose one with content.', 0);
  let raw: unknown;
  try {
    raw = parseJson(new TextDecoder().decode(content));
  } catch (cause) {
    throw damagedJson(cause, 'a V8 sampling heap profile in JSON', 'Save it again whole.');
  }
  const head = (raw as { head?: Node } | null)?.head;
  if (typeof head !== 'object' || head === null || typeof head.callFrame !== 'object')
    throw new EvidenceError(
      'not-a-profile',
      'Expected a V8 sampling heap profile, but the JSON has no head node with a call frame. Record one with the inspector’s HeapProfiler, or with node --heap-prof.'
    );
  return head;
}
