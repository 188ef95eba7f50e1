import { EvidenceError } from './evidence-error';
import { wellFormed } from '../text/well-formed';

/** `JSON.parse`, whose texts are well-formed: an escape such as `\ud800` may name half a character. @throws SyntaxError */
export function parseJson(text: string): unknown {
  if (!/\\u(?:[dD][89a-fA-F]|0000)/.test(text)) return JSON.parse(text);
  return JSON.parse(text, (_, value: unknown) => (typeof value === 'string' ? wellFormed(value) : value));
}

/** The same of a whole file. @throws EvidenceError `not-json`. */
export function jsonDocument(text: string): unknown {
  try {
    return parseJson(text);
  } catch (cause) {
    throw new EvidenceError(
      'not-json',
      `Expected JSON, but it ends or breaks off: ${(cause as Error).message}`
    );
  }
}

/** Why JSON does not parse, with the place in the text where the parser says so. @param expected what it should be: `a V8 CPU profile in JSON` */
export function damagedJson(cause: unknown, expected: string, remedy: string): EvidenceError {
  const { message } = cause as Error;
  const at = /position (\d+)/.exec(message)?.[1];
  return new EvidenceError(
    'json-damaged',
    `Expected ${expected}, but it does not parse: ${message}. ${remedy}`,
    at === undefined ? undefined : Number(at)
  );
}
