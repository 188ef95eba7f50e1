import type { TraceFormat } from '@tromix/core/formats/otlp/recognise';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import { inspectTraces, type InspectedTraces } from '@tromix/core/inspect/traces';
import { formatCount, formatDuration, formatDurationRange, plural } from '@tromix/core/text/format';
import type { InspectedFile, KindOnCommandLine } from './kind';

/** Reads a trace file. @throws EvidenceError for what is no OTLP. */
export async function batchOf(file: InspectedFile, format: TraceFormat): Promise<TraceBatch> {
  const content = await file.content();
  return format === 'otlp-json'
    ? decodeTracesJson(new TextDecoder().decode(content))
    : decodeTracesProtobuf(content);
}

/** All trace files are batches of one system. */
export const traces: KindOnCommandLine<TraceFormat, TraceBatch, InspectedTraces> = {
  read: async (file, format) => ({ part: await batchOf(file, format), join: 'traces' }),
  inspect: (batches, { top }) => inspectTraces(batches, top),
  *lines({ spans, traces: count, rejected, endpoints, findings }) {
    yield `  ${plural(spans, 'span')} in ${plural(count, 'trace')}`;
    for (const { reason, count: many } of rejected) yield `  rejected ${plural(many, 'span')}: ${reason}`;
    yield '';
    yield '     total  requests     p50     p95  endpoint';
    for (const { service, endpoint, count: many, totalNs, p50Ns, p95Ns } of endpoints)
      yield `  ${formatDuration(totalNs).padStart(8)}  ${formatCount(many).padStart(8)}  ${formatDuration(p50Ns).padStart(7)} ${formatDuration(p95Ns).padStart(7)}  ${service} ${endpoint}`;
    yield '';
    yield '  findings';
    for (const { severity, sentence, saving } of findings)
      yield `  [${severity}] ${sentence}${saving ? ` Saves ${formatDurationRange(saving.lowNs, saving.highNs)}.` : ''}`;
  }
};
