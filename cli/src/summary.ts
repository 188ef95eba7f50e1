import { formatWeight, sampleName, wholeName } from '@tromix/core/profile/units';
import {
  formatBytes,
  formatCount,
  formatDuration,
  formatDurationRange,
  formatShare,
  plural
} from '@tromix/core/text/format';
import type {
  HeapResult,
  ProfileResult,
  Result,
  StatementsResult,
  ThreadsResult,
  TracesResult
} from './inspect';

/** A result as lines for a terminal. */
export function* summarise(result: Result): Generator<string> {
  if ('error' in result) {
    yield `${result.file}\n  could not be read: ${result.error.message}\n`;
    return;
  }
  yield `${[result.file].flat().join(', ')}\n  ${result.kind}, ${formatBytes(result.bytes)}\n`;
  for (const { message, count } of result.warnings) yield `  warning (${formatCount(count)}×): ${message}\n`;
  const body = {
    profile: profileText,
    traces: tracesText,
    statements: statementsText,
    threads: threadsText,
    heap: heapText
  } as Record<string, (result: never) => Iterable<string>>;
  for (const line of body[result.kind](result as never)) yield `${line}\n`;
}

function profileText(profile: ProfileResult): string[] {
  const lines = [
    `  ${formatWeight(profile.total, profile)} of ${wholeName(profile)} in ${plural(profile.samples, sampleName(profile))}${profile.unit === 'nanoseconds' ? `, ${formatDuration(profile.idle)} idle` : ''}`,
    '',
    '      self   total  function'
  ];
  for (const { name, file, line, selfShare, totalShare } of profile.functions) {
    lines.push(
      `  ${formatShare(selfShare).padStart(8)} ${formatShare(totalShare).padStart(7)}  ${name}${file ? `  ${file}:${line}` : ''}`
    );
  }
  lines.push('', '  heaviest branch');
  for (const { name, share } of profile.heaviest) lines.push(`  ${formatShare(share).padStart(8)}  ${name}`);
  if (profile.findings.length > 0) lines.push('', '  findings');
  for (const { severity, rule, sentence } of profile.findings)
    lines.push(`  ${severity.padStart(8)}  ${rule}: ${sentence}`);
  return lines;
}

function tracesText(traces: TracesResult): string[] {
  const lines = [`  ${plural(traces.spans, 'span')} in ${plural(traces.traces, 'trace')}`];
  for (const { reason, count } of traces.rejected)
    lines.push(`  rejected ${plural(count, 'span')}: ${reason}`);
  lines.push('', '     total  requests     p50     p95  endpoint');
  for (const { service, endpoint, count, totalNs, p50Ns, p95Ns } of traces.endpoints) {
    lines.push(
      `  ${formatDuration(totalNs).padStart(8)}  ${formatCount(count).padStart(8)}  ${formatDuration(p50Ns).padStart(7)} ${formatDuration(p95Ns).padStart(7)}  ${service} ${endpoint}`
    );
  }
  lines.push('', '  findings');
  for (const { severity, sentence, saving } of traces.findings) {
    const saves = saving ? ` Saves ${formatDurationRange(saving.lowNs, saving.highNs)}.` : '';
    lines.push(`  [${severity}] ${sentence}${saves}`);
  }
  return lines;
}

function threadsText({ dumps, stuck, findings }: ThreadsResult): string[] {
  const lines: string[] = [];
  for (const { capturedAt, runtime, threads, states, rootBlockers, deadlocks, groups } of dumps) {
    const modes = Object.entries(states).map(([state, count]) => `${formatCount(count)} ${state}`);
    lines.push(
      `  ${capturedAt ?? 'a dump without a time'}, ${runtime}: ${plural(threads, 'thread')} (${modes.join(', ')})`
    );
    for (const { thread, lockClass, transitive, at } of rootBlockers)
      lines.push(
        `    ${plural(transitive, 'thread')} behind ${thread}, which holds ${lockClass || 'a lock'}${at ? ` at ${at.function} (${at.file}:${at.line})` : ''}`
      );
    for (const { threads: cycle } of deadlocks)
      lines.push(`    deadlock: ${cycle.join(' → ')} → ${cycle[0]}`);
    for (const { count, state, frames } of groups.filter((group) => group.frames.length > 0))
      lines.push(`    ${formatCount(count).padStart(6)}  ${state.padEnd(13)}  ${frames[0]}`);
    lines.push('');
  }
  for (const { thread, dumps: times, computing, frames } of stuck)
    lines.push(
      `  ${thread} did not move in ${plural(times, 'dump')}${computing === null ? '' : computing ? ', computing' : ', not computing'}: ${frames[0]}`
    );
  lines.push('', '  findings');
  for (const { severity, rule, sentence } of findings)
    lines.push(`  ${severity.padStart(8)}  ${rule}: ${sentence}`);
  return lines;
}

function* heapText({
  objects,
  shallowBytes,
  liveBytes,
  roots,
  classes,
  largest,
  findings
}: HeapResult): Generator<string> {
  yield `  ${formatBytes(shallowBytes)} in ${plural(objects, 'object')}, ${formatBytes(liveBytes)} held from ${plural(roots, 'root')}`;
  yield '';
  yield '  retained   shallow   objects  class';
  for (const { name, count, shallowBytes: own, retainedBytes } of classes)
    yield `  ${formatBytes(retainedBytes).padStart(8)}  ${formatBytes(own).padStart(8)}  ${formatCount(count).padStart(8)}  ${name}`;
  yield '';
  yield '  largest objects';
  for (const { className, retainedBytes, path } of largest)
    yield `  ${formatBytes(retainedBytes).padStart(8)}  ${className}  ← ${path
      .slice(-4, -1)
      .map((step) => step.className)
      .reverse()
      .join(' ← ')}`;
  yield '';
  yield '  findings';
  for (const { severity, rule, sentence } of findings)
    yield `  ${severity.padStart(8)}  ${rule}: ${sentence}`;
}

function statementsText({ statements, groups }: StatementsResult): string[] {
  const lines = [
    `  ${plural(statements, 'statement')}`,
    '',
    '     total     calls     mean      p95  statement'
  ];
  for (const { fingerprint, calls, totalNs, meanNs, p95Ns } of groups) {
    lines.push(
      `  ${formatDuration(totalNs).padStart(8)}  ${formatCount(calls).padStart(8)}  ${formatDuration(meanNs).padStart(7)}  ${formatDuration(p95Ns).padStart(7)}  ${fingerprint}`
    );
  }
  return lines;
}
