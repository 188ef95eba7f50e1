import { plainText } from '@tromix/core/text/words';
import { formatCount, formatShare } from '@tromix/core/text/format';
import { codeBlock, markdownText } from '@tromix/core/text/markdown';
import type { FailureDetail } from '$lib/server/queries/failure';
import { detailReading, failureName, failurePlace, whyOne } from './failure-words';

const MOST_LINES = 40;

/** A group of failures as Markdown a colleague can act on without the tool. @param address where it can be opened */
export function failureTicket(detail: FailureDetail, address: string): string {
  const { group, findings, ways, apart, places, example } = detail;
  const time = (ms: number): string => new Date(ms).toISOString();
  const people = group.people > 0 ? `, ${formatCount(group.people)} users or sessions` : '';
  const lines = [
    `# ${markdownText(failureName(group))}`,
    '',
    `${markdownText(failurePlace(group))}. ${formatCount(group.times)} times in ${formatCount(group.requests)} requests${people}; first ${time(group.firstMs)}, last ${time(group.lastMs)}.`,
    '',
    ...detailReading(detail).map((sentence) => markdownText(plainText(sentence)))
  ];
  if (findings.length > 0)
    lines.push(
      '',
      '## Findings',
      '',
      ...findings.map(
        ({ title, sentence, remedy }) =>
          `- **${markdownText(title)}.** ${markdownText(sentence)} ${markdownText(remedy)}`
      )
    );
  if (ways.length > 0)
    lines.push(
      '',
      '## From where it starts to where people see it',
      '',
      ...ways.map(
        ({ stations, times, seen }) =>
          `- ${formatCount(times)} times (${formatCount(seen)} reached somebody): ${stations.map(({ service, label }) => markdownText(`${service} (${label})`)).join(' → ')}`
      )
    );
  const where = [
    ...places.releases.map(({ name, times }) => `release ${name}: ${formatCount(times)}`),
    ...places.hosts.map(({ name, times }) => `host ${name}: ${formatCount(times)}`)
  ];
  if (where.length > 0) lines.push('', markdownText(`${where.join('; ')}.`));
  if (apart.rows.length > 0)
    lines.push(
      '',
      '## What sets its requests apart',
      '',
      ...apart.rows.map(
        ({ name, value, slowShare, otherShare }) =>
          `- ${markdownText(`${name} = ${value}`)}: ${formatShare(slowShare)} of these, ${formatShare(otherShare)} of the others`
      )
    );
  if (example?.exception?.stack)
    lines.push(
      '',
      '## One of them',
      '',
      codeBlock(example.exception.stack.split('\n').slice(0, MOST_LINES).join('\n'))
    );
  lines.push(
    '',
    '## Why these are one',
    '',
    ...whyOne(group).map((reason) => `- ${markdownText(reason)}`),
    '',
    address,
    ''
  );
  return lines.join('\n');
}
