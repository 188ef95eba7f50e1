import { defineRule } from './define-rule';
import { severityOf } from './finding';
import { fileName, inMs, isMuch, OF_THE_WAY, type FoundInPage, type PageContext } from './page-finding';

/** The picture that is the largest paint is asked for long after it could have been. */
export const latePicture = defineRule({
  rule: 'late-picture',
  name: 'Late picture',
  looksFor:
    'A largest paint that shows a picture which was asked for long after the document had begun to come.',
  thresholds: [{ ...OF_THE_WAY, name: 'from the first byte of the document until it was asked for' }],
  why: 'The browser did not know of it: script put it into the page, a style sheet names it, or it was told to be lazy.',
  doThis: [
    'Name it in the document, as a picture or as what is to be loaded ahead.',
    'Do not load the first picture lazily, and give it a high priority.'
  ],
  find
});

function find(context: PageContext): FoundInPage[] {
  const { largest, resources } = context.load;
  if (!largest || largest.url === '') return [];
  const at = resources.findIndex(({ url }) => url === largest.url);
  const document = resources.find(({ kind }) => kind === 'document');
  if (at < 0 || !document) return [];
  const firstByteMs = document.phases?.responseStartMs ?? null;
  const knownMs = firstByteMs ?? document.endMs;
  const lateMs = resources[at].startMs - knownMs;
  if (!isMuch(lateMs, context)) return [];
  return [
    {
      title: 'Late picture',
      severity: severityOf(lateMs, largest.atMs),
      sentence: `${fileName(largest.url)}, the largest paint, was asked for ${inMs(lateMs)} after the document’s ${firstByteMs === null ? 'end' : 'first byte'}; it took ${inMs(resources[at].endMs - resources[at].startMs)} itself.`,
      remedy: 'Name it in the document, so that the browser asks for it at once.',
      figures: { lateMs, largestMs: largest.atMs },
      evidence: { resources: [at], tasks: [] },
      cost: lateMs * 1e6
    }
  ];
}
