import { VITAL_FACTS } from '../pages/vitals';
import { defineRule } from './define-rule';
import { severityOf } from './finding';
import { inMs, type FoundInPage, type PageContext } from './page-finding';

const [GOOD_MS, POOR_MS] = VITAL_FACTS.ttfb.limits;

/** The first byte of the document comes late. */
export const slowFirstByte = defineRule({
  rule: 'slow-first-byte',
  name: 'Slow first byte',
  looksFor: 'A document whose first byte came later than is called good.',
  thresholds: [
    {
      name: 'first byte',
      value: `over ${GOOD_MS} ms`,
      why: `web.dev calls up to ${GOOD_MS} ms good, and over ${POOR_MS} ms poor.`
    }
  ],
  why: 'Nothing of the page can begin before it.',
  doThis: [
    'Open the request behind it: where the server’s time goes is said there.',
    'Where the connection takes it, answer from nearer by, and do without redirects.'
  ],
  find
});

function find({ load }: PageContext): FoundInPage[] {
  const { ttfb } = load.vitals;
  if (ttfb === undefined || ttfb <= GOOD_MS) return [];
  const at = load.resources.findIndex(({ kind }) => kind === 'document');
  const document = load.resources[at];
  const { requestStartMs = null, responseStartMs = null } = document?.phases ?? {};
  const serverMs =
    requestStartMs !== null && responseStartMs !== null ? responseStartMs - requestStartMs : null;
  const parts =
    serverMs === null
      ? 'How much of it the server took is not told.'
      : `From the request to the first byte it took ${inMs(serverMs)}; before that, ${inMs(ttfb - serverMs)} went to reaching the server.`;
  return [
    {
      title: 'Slow first byte',
      severity: severityOf(ttfb - GOOD_MS, load.largest?.atMs ?? ttfb),
      sentence: `The document’s first byte came after ${inMs(ttfb)}; up to ${inMs(GOOD_MS)} is called good. ${parts}`,
      remedy: 'Look at the request behind it before you look at the page.',
      figures: { ttfbMs: ttfb, serverMs, traceId: document?.traceId || null },
      evidence: { resources: at < 0 ? [] : [at], tasks: [] },
      cost: (ttfb - GOOD_MS) * 1e6
    }
  ];
}
