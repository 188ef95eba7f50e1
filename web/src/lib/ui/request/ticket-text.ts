import type { Finding } from '@tromix/core/findings/finding';
import { formatCount, formatDuration, formatDurationRange, formatShare } from '@tromix/core/text/format';
import { codeSpan, markdownText } from '@tromix/core/text/markdown';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import type { RequestModel } from './request-model';
import { requestReading } from './request-reading';

const MOST_CALLS = 8;

/**
 * The request as Markdown a colleague can act on without the tool.
 * @param address where it can be opened. @param explainedNs what of its unseen time a profile explains
 */
export function ticketText(
  model: RequestModel,
  findings: readonly Finding[],
  address: string,
  explainedNs = 0
): string {
  const { request, trace, root, groups } = model;
  const { span } = trace.tree.nodes[root];
  const { service, host, release } = span.resource;
  const whole = Math.max(1, request.durationNs);
  const lines = [
    `# ${markdownText(request.endpoint)}: ${formatDuration(request.durationNs)}${request.failed ? ', failed' : ''}`,
    '',
    `${markdownText(service)} ${markdownText(release)} on ${markdownText(host)}, ${new Date(model.startUs / 1000).toISOString()}. Trace ${span.traceId}, span ${span.spanId}.`,
    '',
    requestReading(model, findings, explainedNs).join(' ').replaceAll('*', '**'),
    '',
    '## Where the time went',
    '',
    '| account | time | share |',
    '| --- | ---: | ---: |',
    ...ACCOUNTS.filter((account) => request.ledger[account] > 0)
      .toSorted((a, b) => request.ledger[b] - request.ledger[a])
      .map(
        (account) =>
          `| ${LOOKS[account].name} | ${formatDuration(request.ledger[account])} | ${formatShare(request.ledger[account] / whole)} |`
      )
  ];
  if (findings.length > 0) lines.push('', '## Findings', '');
  for (const finding of findings) {
    lines.push(
      `- **${markdownText(finding.title)}.** ${markdownText(finding.sentence)} ${markdownText(finding.remedy)}`
    );
    if (finding.evidence.fingerprint) lines.push(`  ${codeSpan(finding.evidence.fingerprint)}`);
    if (finding.saving && finding.saving.highNs > 0)
      lines.push(
        `  Expected after it: ${formatDurationRange(request.durationNs - finding.saving.highNs, request.durationNs - finding.saving.lowNs)}. ${markdownText(finding.assumption ?? '')}`
      );
  }
  if (groups.length > 0)
    lines.push(
      '',
      '## Calls',
      '',
      '| calls | total | booked | call | made at |',
      '| ---: | ---: | ---: | --- | --- |'
    );
  for (const group of groups.slice(0, MOST_CALLS))
    lines.push(
      `| ${formatCount(group.count)} | ${formatDuration(group.totalNs)} | ${formatDuration(group.bookedNs)} | ${codeSpan(group.fingerprint).replaceAll('|', '¦')} | ${markdownText(group.origin)} |`
    );
  lines.push('', address, '');
  return lines.join('\n');
}
