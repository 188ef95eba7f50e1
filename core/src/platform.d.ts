/**
 * The one platform service core relies on that the ECMAScript library does not declare.
 * Browsers, Node and workers all provide it (WHATWG Encoding Standard).
 */
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(input?: Uint8Array, options?: { stream?: boolean }): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array;
}
