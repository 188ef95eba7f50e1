import * as v from 'valibot';

/** How far an investigation has come. */
export const CASE_STATES = ['open', 'cause found', 'fixed', 'proved', 'given up'] as const;
export type CaseState = (typeof CASE_STATES)[number];

/** States in which nobody goes on: the evidence of such a case is let go. */
export const CLOSED_STATES: readonly CaseState[] = ['proved', 'given up'];

/** What was pinned, in the words of the views. */
const PIN_KINDS = [
  'overview',
  'endpoint',
  'request',
  'span',
  'finding',
  'call group',
  'chart',
  'profile',
  'function',
  'line',
  'threads',
  'thread',
  'lock',
  'heap',
  'holder',
  'path',
  'comparison',
  'load run',
  'view'
] as const;

/** What a pin is for in the case; '' for nothing in particular. The checklist reads it. */
export const ROLES = [
  '',
  'noticed',
  'slow request',
  'normal request',
  'cause',
  'prediction',
  'proof'
] as const;
export type Role = (typeof ROLES)[number];

const MAX_TEXT = 20_000;
const text = v.pipe(v.string(), v.maxLength(MAX_TEXT));
const short = v.pipe(v.string(), v.maxLength(1000));

/** A figure as it was when it was pinned, in words. */
const Figure = v.strictObject({ name: short, value: short });
/** An excerpt of a source file. */
const Code = v.strictObject({
  file: short,
  /** The line that matters; 0 for none. */
  line: v.pipe(v.number(), v.integer(), v.minValue(0)),
  release: short,
  lines: v.pipe(
    v.array(v.strictObject({ number: v.pipe(v.number(), v.integer(), v.minValue(0)), text: short })),
    v.maxLength(200)
  )
});

/** A picture is SVG; it is only ever shown as an image, where nothing in it runs. */
const MAX_PICTURE = 400_000;

/** What was pinned from a view: its figures and its picture as they were, and the address of the view. */
export const Pin = v.strictObject({
  kind: v.picklist(PIN_KINDS),
  role: v.optional(v.picklist(ROLES), ''),
  /** One sentence that says what it shows. */
  sentence: text,
  figures: v.optional(v.pipe(v.array(Figure), v.maxLength(60)), () => []),
  /** Path and query of the view, with an absolute time. */
  address: v.pipe(
    v.string(),
    v.maxLength(8000),
    v.regex(/^\/(?!\/)/, 'expected an address of this application')
  ),
  picture: v.optional(v.pipe(v.string(), v.maxLength(MAX_PICTURE)), ''),
  code: v.optional(v.nullable(Code), null),
  /** A statement, a stack, a command: text that is shown as it is. */
  verbatim: v.optional(text, ''),
  /** What of the evidence it stands on. */
  traces: v.optional(
    v.pipe(v.array(v.pipe(v.string(), v.regex(/^[0-9a-f]{32}$/))), v.maxLength(200)),
    () => []
  ),
  files: v.optional(v.pipe(v.array(v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))), v.maxLength(50)), () => [])
});
export type Pin = v.InferOutput<typeof Pin>;
export type PinInput = v.InferInput<typeof Pin>;

/** A note, or a pin with what is said about it. */
export const Entry = v.strictObject({
  /** 16 hexadecimal digits. */
  id: v.pipe(v.string(), v.regex(/^[0-9a-f]{16}$/)),
  /** Epoch microseconds: when it was made. */
  atUs: v.pipe(v.number(), v.integer(), v.minValue(0)),
  title: short,
  /** Markdown. */
  text,
  pin: v.nullable(Pin),
  /** Counts its changes: who changes it says which one was read. */
  version: v.pipe(v.number(), v.integer(), v.minValue(1))
});
export type Entry = v.InferOutput<typeof Entry>;

/** One investigation. Entries stand in the order they are read in. */
export const Case = v.strictObject({
  id: v.pipe(v.string(), v.regex(/^[0-9a-f]{16}$/)),
  question: v.pipe(v.string(), v.trim(), v.minLength(1, 'A case needs a question.'), v.maxLength(300)),
  state: v.picklist(CASE_STATES),
  /** Who was told of it; '' for nobody yet. */
  told: short,
  createdAtUs: v.pipe(v.number(), v.integer(), v.minValue(0)),
  version: v.pipe(v.number(), v.integer(), v.minValue(1)),
  entries: v.pipe(v.array(Entry), v.maxLength(1000))
});
export type Case = v.InferOutput<typeof Case>;

/** The traces and files a case stands on, each once. */
export function evidenceOfCase({ entries }: Pick<Case, 'entries'>): { traces: string[]; files: string[] } {
  const pins = entries.flatMap(({ pin }) => pin ?? []);
  return {
    traces: [...new Set(pins.flatMap(({ traces }) => traces))],
    files: [...new Set(pins.flatMap(({ files }) => files))]
  };
}
