import { formatCount, plural } from '@tromix/core/text/format';
import type { Words } from '@tromix/core/text/words';
import { ruleText } from '@tromix/core/findings/all-rules';
import type { Gone } from '@tromix/core/findings/gone';
import { costs } from '@tromix/core/findings/over-many-words';
import type { FoundGroup } from '$lib/server/queries/found-group';

/** A finding over many requests in one sentence. */
export const foundSentence = (finding: FoundGroup): Words =>
  ruleText(finding.rule)?.overMany?.(finding) ?? [finding.sentence, ...costs(finding)];

/** Since when a finding is no longer there. */
export const goneWords = ({ release, after, before, found }: Gone): string =>
  `Gone since ${release}: 0 of ${plural(after, 'request')}, ${formatCount(found)} of ${formatCount(before)} before.`;
