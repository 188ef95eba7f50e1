import { ratingOf } from '@tromix/core/pages/vitals';
import type { VisitEvent } from '@tromix/core/pages/visit';
import { formatDuration, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { OneVisit } from '$lib/server/queries/pages/one-visit';

/** What one visit shows, in a few sentences. */
export function visitReading(events: readonly VisitEvent[], { loads }: OneVisit): Words[] {
  const sentences: Words[] = [];
  const poor = loads.filter(
    ({ vitals }) => vitals.lcp !== undefined && ratingOf('lcp', vitals.lcp) === 'poor'
  );
  const painted = loads.filter(({ vitals }) => vitals.lcp !== undefined);
  if (painted.length > 0) {
    const slowest = painted.reduce((most, load) => (load.vitals.lcp! > most.vitals.lcp! ? load : most));
    sentences.push(
      words`${[slowest.page]} was waited for longest: ${[formatDuration(slowest.vitals.lcp! * 1e6)]} to its largest paint${
        poor.length > 0
          ? `; ${plural(poor.length, 'load')} of ${loads.length} came to what is called poor`
          : ''
      }.`
    );
  }
  const errors = events.filter(({ kind }) => kind === 'error').length;
  const failedCalls = events.filter(({ kind, failed }) => kind === 'call' && failed).length;
  if (errors + failedCalls > 0)
    sentences.push(
      words`${[
        [errors > 0 ? plural(errors, 'error') : '', failedCalls > 0 ? plural(failedCalls, 'failed call') : '']
          .filter(Boolean)
          .join(' and ')
      ]} came on the way.`
    );
  const busiest = events
    .filter(({ kind }) => kind === 'call')
    .reduce<VisitEvent | null>(
      (most, event) => (most === null || event.resources.length > most.resources.length ? event : most),
      null
    );
  if (busiest && busiest.resources.length > 1)
    sentences.push(
      words`One step asked ${[plural(busiest.resources.length, 'time')]} for the same kind of answer, ${busiest.label.replace(/, .*$/, '')}.`
    );
  return sentences;
}
