import type { Warning } from '@tromix/core/formats/evidence-error';
import { inspectProfile, type InspectedProfile } from '@tromix/core/inspect/profile';
import { readProfile, type ProfileFormat } from '@tromix/core/profile/read';
import { formatWeight, sampleName, wholeName } from '@tromix/core/profile/units';
import { formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { findingLines } from '../finding-lines';
import type { KindOnCommandLine } from './kind';

type Body = InspectedProfile & { warnings: Warning[] };

export const profile: KindOnCommandLine<ProfileFormat, Body, InspectedProfile> = {
  async read(file, format, { top }) {
    const { profile: read, warnings } = readProfile(await file.content(), format);
    return { part: { warnings, ...inspectProfile(read, top) } };
  },
  inspect: ([body]) => body,
  *lines(body) {
    yield `  ${formatWeight(body.total, body)} of ${wholeName(body)} in ${plural(body.samples, sampleName(body))}${body.durationNs > 0 ? `, ${formatDuration(body.idle)} idle` : ''}`;
    yield '';
    yield '      self   total  function';
    for (const { name, file, line, selfShare, totalShare } of body.functions)
      yield `  ${formatShare(selfShare).padStart(8)} ${formatShare(totalShare).padStart(7)}  ${name}${file ? `  ${file}:${line}` : ''}`;
    yield '';
    yield '  heaviest branch';
    for (const { name, share } of body.heaviest) yield `  ${formatShare(share).padStart(8)}  ${name}`;
    if (body.findings.length > 0) yield* findingLines(body.findings);
  }
};
