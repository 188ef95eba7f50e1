class StampError extends Error {}

type Form = (text: string) => number;

const dotted: Form = (text) => read(/^(\d\d)\.(\d\d)\.(\d{4}) (\d\d):(\d\d)$/, text);
const slashed: Form = (text) => read(/^(\d\d)\/(\d\d)\/(\d{4}) (\d\d):(\d\d)$/, text);
const packed: Form = (text) => read(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)$/, text);
const iso: Form = (text) => {
  const time = Date.parse(text);
  if (!/^\d{4}-/.test(text) || Number.isNaN(time)) throw new StampError(`not an ISO stamp: ${text}`);
  return time;
};

/** Reads a time stamp in any of the forms the gauges use. Every form that does not fit throws. */
export function parseStamp(text: string, isoLast: boolean): number {
  for (const form of isoLast ? [dotted, slashed, packed, iso] : [iso, packed, slashed, dotted]) {
    try {
      return tryForm(form, text);
    } catch {
      // The next form may fit.
    }
  }
  throw new StampError(`no form fits: ${text}`);
}

function tryForm(form: Form, text: string): number {
  return form(text);
}

function read(pattern: RegExp, text: string): number {
  const found = pattern.exec(text);
  if (!found) throw new StampError(`does not fit ${pattern.source}: ${text}`);
  const [, a, b, c, hour, minute] = found.map(Number);
  return a > 31 ? Date.UTC(a, b - 1, c, hour, minute) : Date.UTC(c, b - 1, a, hour, minute);
}
