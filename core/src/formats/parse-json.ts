import { wellFormed } from '../text/well-formed';

/** `JSON.parse`, whose texts are well-formed: an escape such as `\ud800` may name half a character. @throws SyntaxError */
export function parseJson(text: string): unknown {
  if (!/\\u(?:[dD][89a-fA-F]|0000)/.test(text)) return JSON.parse(text);
  return JSON.parse(text, (_, value: unknown) => (typeof value === 'string' ? wellFormed(value) : value));
}
