const COMMA = 0x2c;
const MINUS = 0x2d;
const ZERO = 0x30;
const NINE = 0x39;
const COLON = 0x3a;
const OPEN_LIST = 0x5b;
const CLOSE_LIST = 0x5d;

const isSpace = (c: number): boolean => c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09;

/** Stands in the text where an array was taken out: only the array that was really the member's value carries it there. */
const markerOf = (name: string): string => `taken: ${name}`;

/**
 * Parses a JSON object (RFC 8259) whose named members may be very long arrays of whole numbers, and reads those straight
 * into typed arrays, which spares the parser a value for each of hundreds of thousands of samples. The result is that of
 * `JSON.parse`, but for the type of these arrays; a text that is not so simple is parsed whole.
 * @throws SyntaxError as `JSON.parse` does.
 */
export function parseWithNumberArrays(text: string, names: readonly string[]): unknown {
  const cuts: { name: string; from: number; to: number; values: Float64Array }[] = [];
  for (const name of names) {
    const cut = findArray(text, name);
    if (cut) cuts.push({ name, ...cut });
  }
  cuts.sort((a, b) => a.from - b.from);
  let rest = '';
  let copied = 0;
  for (const { name, from, to } of cuts) {
    if (from < copied) return JSON.parse(text);
    rest += `${text.slice(copied, from)}["${markerOf(name)}"]`;
    copied = to;
  }
  const parsed = tryParse(rest + text.slice(copied));
  for (const { name, values } of cuts) {
    const member = parsed?.[name];
    if (!parsed || !Array.isArray(member) || member[0] !== markerOf(name)) return JSON.parse(text);
    parsed[name] = values;
  }
  return parsed ?? JSON.parse(text);
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

/** The first place that looks like `"name": [numbers]`. Whether it is the object's own member is seen after parsing. */
function findArray(text: string, name: string): { from: number; to: number; values: Float64Array } | null {
  const quoted = JSON.stringify(name);
  for (let at = text.indexOf(quoted); at >= 0; at = text.indexOf(quoted, at + 1)) {
    const from = listBegin(text, at + quoted.length);
    const read = from < 0 ? null : readNumbers(text, from + 1);
    if (read) return { from, to: read.end + 1, values: read.values };
  }
  return null;
}

/** Position of the `[` of a member's value; −1 where the value is something else, or this was no member's name. */
function listBegin(text: string, from: number): number {
  let at = from;
  while (isSpace(text.charCodeAt(at))) at++;
  if (text.charCodeAt(at++) !== COLON) return -1;
  while (isSpace(text.charCodeAt(at))) at++;
  return text.charCodeAt(at) === OPEN_LIST ? at : -1;
}

/** Reads whole numbers up to the `]`, strictly as JSON writes them. Null for anything else. */
function readNumbers(text: string, from: number): { values: Float64Array; end: number } | null {
  let values = new Float64Array(1024);
  let count = 0;
  let at = from;
  for (;;) {
    let c = text.charCodeAt(at);
    while (isSpace(c)) c = text.charCodeAt(++at);
    if (c === CLOSE_LIST && count === 0) break;
    const negative = c === MINUS;
    if (negative) c = text.charCodeAt(++at);
    if (!(c >= ZERO && c <= NINE)) return null;
    const begin = at;
    let value = 0;
    while (c >= ZERO && c <= NINE) {
      value = value * 10 + (c - ZERO);
      c = text.charCodeAt(++at);
    }
    const leadingZero = at - begin > 1 && text.charCodeAt(begin) === ZERO;
    if (leadingZero || value > Number.MAX_SAFE_INTEGER) return null;
    if (count === values.length) {
      const larger = new Float64Array(count * 2);
      larger.set(values);
      values = larger;
    }
    values[count++] = negative ? -value : value;
    while (isSpace(c)) c = text.charCodeAt(++at);
    if (c === CLOSE_LIST) break;
    if (c !== COMMA) return null;
    at++;
  }
  return { values: values.subarray(0, count), end: at };
}
