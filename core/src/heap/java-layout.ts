import { OBJECT_TYPE, typeSize, type HprofField } from './hprof-walk';

/** Bytes of an object's header and of a reference on a 64-bit machine with compressed references (common practice; JDK 8 to 21). */
const HEADER = 12;
const REFERENCE = 4;
export const ARRAY_HEADER = 16;

export const align8 = (bytes: number): number => Math.ceil(bytes / 8) * 8;

const INJECTED_LONG: HprofField = { name: 0, type: 11 };
const INJECTED_INT: HprofField = { name: 0, type: 10 };
const INJECTED_REFERENCE: HprofField = { name: 0, type: OBJECT_TYPE };

/**
 * Fields the machine adds to classes of its own, which a dump does not name. Source: HotSpot's `javaClasses.hpp` of JDK 17, from memory;
 * checked by the class histogram.
 */
const INJECTED = new Map<string, HprofField[]>([
  [
    'java.lang.Class',
    [
      INJECTED_LONG,
      INJECTED_LONG,
      INJECTED_INT,
      INJECTED_INT,
      INJECTED_REFERENCE,
      INJECTED_REFERENCE,
      INJECTED_REFERENCE
    ]
  ],
  ['java.lang.ClassLoader', [INJECTED_LONG]],
  ['java.lang.Module', [INJECTED_LONG]],
  ['java.lang.invoke.MemberName', [INJECTED_LONG]],
  ['java.lang.invoke.ResolvedMethodName', [INJECTED_REFERENCE, INJECTED_LONG]],
  ['java.lang.invoke.MethodHandleNatives$CallSiteContext', [INJECTED_LONG, INJECTED_LONG]]
]);

/** Bytes the machine leaves free around fields that many processors write (`@Contended`): the dump does not name them either. */
const PADDING = new Map([['java.lang.Thread', 256]]);
/** Where the fields of a class lie: how far the object reaches, and the gaps left between them. */
export interface FieldLayout {
  end: number;
  gaps: { at: number; bytes: number }[];
}

const ROOT_LAYOUT: FieldLayout = { end: HEADER, gaps: [] };

/** The layout of a class by its name: with fields and room the machine adds to its own. */
export function layClass(
  name: string,
  above: FieldLayout | null,
  fields: readonly HprofField[]
): FieldLayout {
  const layout = layFields(above, [...fields, ...(INJECTED.get(name) ?? [])]);
  const padding = PADDING.get(name);
  return padding === undefined ? layout : { end: align8(layout.end) + padding, gaps: [] };
}

/**
 * Lays the fields of a class behind those of its superclass as HotSpot does since JDK 15: primitives by falling size, then references,
 * each in the first gap that holds it. Checked against the class histogram of a JDK 17.
 */
function layFields(above: FieldLayout | null, fields: readonly HprofField[]): FieldLayout {
  const { end, gaps } = above ?? ROOT_LAYOUT;
  const layout: FieldLayout = { end, gaps: gaps.map((gap) => ({ ...gap })) };
  const sizes = fields.map(({ type }) =>
    type === OBJECT_TYPE ? REFERENCE : (typeSize(type, REFERENCE) ?? 0)
  );
  const primitives = sizes.filter((_, i) => fields[i].type !== OBJECT_TYPE).sort((a, b) => b - a);
  const references = sizes.filter((_, i) => fields[i].type === OBJECT_TYPE);
  for (const bytes of [...primitives, ...references]) place(layout, bytes);
  return layout;
}

function place(layout: FieldLayout, bytes: number): void {
  for (const gap of layout.gaps) {
    const at = Math.ceil(gap.at / bytes) * bytes;
    if (at + bytes > gap.at + gap.bytes) continue;
    const rest = gap.at + gap.bytes - at - bytes;
    if (at > gap.at) layout.gaps.push({ at: gap.at, bytes: at - gap.at });
    gap.at = at + bytes;
    gap.bytes = rest;
    layout.gaps = layout.gaps.filter((one) => one.bytes > 0);
    return;
  }
  const at = Math.ceil(layout.end / bytes) * bytes;
  if (at > layout.end) layout.gaps.push({ at: layout.end, bytes: at - layout.end });
  layout.end = at + bytes;
}

/** Shallow size of an array. */
export function arraySize(type: number, length: number): number {
  return align8(
    ARRAY_HEADER + length * (type === OBJECT_TYPE ? REFERENCE : (typeSize(type, REFERENCE) ?? 1))
  );
}
