import { EVIDENCE_KINDS, KINDS, type EvidenceKind, type FormatOf } from '../evidence/kinds';
import { EvidenceError } from './evidence-error';
import { FileHead } from './file-head';
import { looksLikeHar } from './har';
import { recogniseTraces, type TraceFormat } from './otlp/recognise';

/** What a file is: traces, page loads, or evidence of a kind. */
export type Recognised =
  | { kind: 'traces'; format: TraceFormat }
  | { kind: 'pages'; format: 'har' }
  | { [K in EvidenceKind]: { kind: K; format: FormatOf<K> } }[EvidenceKind];
export type EvidenceFormat = Recognised['format'];

/**
 * Says what a file is by its content, never by its name.
 * @param bytes the inflated content, or at least its first 256 KiB.
 * @throws EvidenceError `empty`, `unknown-format`.
 */
export function recognise(bytes: Uint8Array): Recognised {
  if (bytes.length === 0)
    throw new EvidenceError('empty', 'The file is empty: 0 bytes were found. Choose one with content.', 0);
  const head = new FileHead(bytes);
  const traces = recogniseTraces(head);
  if (traces) return { kind: 'traces', format: traces };
  if (looksLikeHar(head)) return { kind: 'pages', format: 'har' };
  for (const kind of EVIDENCE_KINDS) {
    const format = KINDS[kind].recognise(head);
    if (format) return { kind, format } as Recognised;
  }
  const known = EVIDENCE_KINDS.map((kind) => `a ${KINDS[kind].label} (${KINDS[kind].reads})`);
  const found = head.isObject
    ? 'a JSON object of another shape'
    : head.text.startsWith('[')
      ? 'a JSON list'
      : 'content of no known shape';
  throw new EvidenceError(
    'unknown-format',
    `Expected OTLP traces (JSON or protobuf), page loads (HTTP Archive, HAR 1.2), ${known.slice(0, -1).join(', ')} or ${known.at(-1)}, plain or gzip, but found ${found} at byte 0.`,
    0
  );
}

/** As `recognise`; null for what is not known. */
export function recogniseOr(bytes: Uint8Array): Recognised | null {
  try {
    return recognise(bytes);
  } catch (cause) {
    if (cause instanceof EvidenceError) return null;
    throw cause;
  }
}
