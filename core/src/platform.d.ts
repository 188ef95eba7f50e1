/**
 * The platform services core relies on that the ECMAScript library does not declare.
 * Browsers, Node and workers all provide them (WHATWG Encoding Standard).
 */
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(input?: Uint8Array, options?: { stream?: boolean }): string;
}
declare class TextEncoder {
  encode(input: string): Uint8Array;
}
/** Base64 of a text of bytes (WHATWG HTML; a global of Node and workers too). */
declare function btoa(data: string): string;
