import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ExportTraceServiceRequest } from '@tromix/core/formats/otlp/schema';

/** A message of OTLP, as the schema has it. */
export type Message = typeof ExportTraceServiceRequest;

/** This machine's folder of the workload, and the one that stands for it in a recording. */
const HERE = fileURLToPath(new URL('../..', import.meta.url)).replace(/\/$/, '');
const THERE = '/srv/quillhaven';
/** What is installed lies one further up. */
const [ABOVE_HERE, ABOVE_THERE] = [path.dirname(HERE), path.dirname(THERE)];

/** A text in which stacks name the folder of the invented port instead of this machine's. */
export const asThere = (text: string): string =>
  text.replaceAll(HERE, THERE).replaceAll(ABOVE_HERE, ABOVE_THERE).replaceAll(`"${os.hostname()}"`, '"quay"');

/** The same of OTLP messages. */
export function messageThere(type: Message, bytes: Uint8Array): Uint8Array {
  const message = type.decode(bytes);
  moveTexts(message as unknown as Record<string, unknown>);
  return type.encode(message).finish();
}

function moveTexts(value: Record<string, unknown>): void {
  for (const [key, inner] of Object.entries(value))
    if (typeof inner === 'string') value[key] = asThere(inner);
    else if (typeof inner === 'object' && inner !== null && !ArrayBuffer.isView(inner))
      moveTexts(inner as Record<string, unknown>);
}
