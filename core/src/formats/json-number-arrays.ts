const SPACE = 0x20;
const QUOTE = 0x22;
const COMMA = 0x2c;
const MINUS = 0x2d;
const ZERO = 0x30;
const COLON = 0x3a;
const OPEN_LIST = 0x5b;
const CLOSE_LIST = 0x5d;

const isSpace = (c: number): boolean => c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09;

/** Stands in the text where an array was taken out: only the array that was really the member's value carries it there. */
const markerOf = (name: string): string => `taken: ${name}`;

/**
 * Parses a JSON object (RFC 8259) whose named members may be very long arrays of whole numbers, and reads those from the
 * bytes straight into typed arrays, which spares the parser a value for each of hundreds of thousands of samples. The
 * result is that of `JSON.parse`, but for the type of these arrays; content that is not so simple is parsed whole.
 * @param bytes UTF-8.
 * @throws SyntaxError as `JSON.parse` does.
 */
export function parseWithNumberArrays(bytes: Uint8Array, names: readonly string[]): unknown {
  const decoder = new TextDecoder();
  const whole = (): unknown => JSON.parse(decoder.decode(bytes));
  const cuts: { name: string; from: number; to: number; values: Float64Array }[] = [];
  for (const name of names) {
    const cut = findArray(bytes, name);
    if (cut) cuts.push({ name, ...cut });
  }
  cuts.sort((a, b) => a.from - b.from);
  let rest = '';
  let copied = 0;
  for (const { name, from, to } of cuts) {
    if (from < copied) return whole();
    rest += `${decoder.decode(bytes.subarray(copied, from))}["${markerOf(name)}"]`;
    copied = to;
  }
  const parsed = tryParse(rest + decoder.decode(bytes.subarray(copied)));
  for (const { name, values } of cuts) {
    const member = parsed?.[name];
    if (!parsed || !Array.isArray(member) || member[0] !== markerOf(name)) return whole();
    parsed[name] = values;
  }
  return parsed ?? whole();
}

function tryParse(text: string): Record<string, unknown> | null {
  try {
    const parsed: unknown = JSON.parse(text);
    return typeof parsed === 'object' && parsed !== null ? (parsed as Record<string, unknown>) : null;
  } catch {
    // The whole text says better where it breaks.
    return null;
  }
}

/**
 * The last place that looks like `"name": [numbers]`: such arrays commonly stand at the end, so the search begins there.
 * Whether it is the object's own member is seen after parsing.
 */
function findArray(
  bytes: Uint8Array,
  name: string
): { from: number; to: number; values: Float64Array } | null {
  const letters = new TextEncoder().encode(`${name}"`);
  for (let at = bytes.lastIndexOf(QUOTE); at >= 0; at = at > 0 ? bytes.lastIndexOf(QUOTE, at - 1) : -1) {
    let same = 0;
    while (same < letters.length && bytes[at + 1 + same] === letters[same]) same++;
    if (same < letters.length) continue;
    const from = listBegin(bytes, at + 1 + letters.length);
    const read = from < 0 ? null : readNumbers(bytes, from + 1);
    if (read) return { from, to: read.end + 1, values: read.values };
  }
  return null;
}

/** Position of the `[` of a member's value; −1 where the value is something else, or this was no member's name. */
function listBegin(bytes: Uint8Array, from: number): number {
  let at = from;
  while (isSpace(bytes[at])) at++;
  if (bytes[at++] !== COLON) return -1;
  while (isSpace(bytes[at])) at++;
  return bytes[at] === OPEN_LIST ? at : -1;
}

/** Reads whole numbers up to the `]`, strictly as JSON writes them. Null for anything else. */
function readNumbers(bytes: Uint8Array, from: number): { values: Float64Array; end: number } | null {
  // The end is found first: then nothing is read beyond it, and room is made once, for as many numbers as there are commas and one.
  const end = bytes.indexOf(CLOSE_LIST, from);
  if (end < 0) return null;
  let commas = 0;
  for (let i = from; i < end; i++) if (bytes[i] === COMMA) commas++;
  const values = new Float64Array(commas + 1);
  let count = 0;
  let at = skipSpace(bytes, from);
  if (at === end) return { values: values.subarray(0, 0), end };
  for (;;) {
    // Hardly a writer puts spaces here: one comparison decides it.
    if (bytes[at] <= SPACE) at = skipSpace(bytes, at);
    const negative = bytes[at] === MINUS;
    if (negative) at++;
    const begin = at;
    let value = 0;
    let digit = bytes[at] - ZERO;
    while (digit >= 0 && digit <= 9) {
      value = value * 10 + digit;
      digit = bytes[++at] - ZERO;
    }
    const digits = at - begin;
    if (digits === 0 || (digits > 1 && bytes[begin] === ZERO)) return null;
    if (digits > 15 && value > Number.MAX_SAFE_INTEGER) return null;
    values[count++] = negative ? -value : value;
    if (bytes[at] <= SPACE) at = skipSpace(bytes, at);
    if (at === end) return { values, end };
    if (bytes[at++] !== COMMA) return null;
  }
}

function skipSpace(bytes: Uint8Array, from: number): number {
  let at = from;
  while (isSpace(bytes[at])) at++;
  return at;
}
