import { formatBytes, formatShare, plural } from '../text/format';
import { defineRule } from './define-rule';
import { fileName, type FoundInPage, type PageContext } from './page-finding';

const LEAST_BYTES = 100_000;
const LEAST_UNUSED = 0.5;

/** Code comes before the paint that nothing used until then. */
export const unusedBeforePaint = defineRule({
  rule: 'unused-before-paint',
  name: 'Unused before the paint',
  looksFor:
    'Scripts and style sheets that came before the largest paint, and of which most was not used until then.',
  thresholds: [
    {
      name: 'unused',
      value: `${formatBytes(LEAST_BYTES)} or more of a file, and ${LEAST_UNUSED * 100} % of it`,
      why: 'Less is hardly worth parting a file.'
    },
    {
      name: 'coverage',
      value: 'known',
      why: 'Only a recording tells what was used: loads of visitors do not.'
    }
  ],
  why: 'It is fetched, read and compiled before what is to be seen.',
  doThis: [
    'Part the file by where it is used, and load the rest later.',
    'Take out what nothing uses at all.'
  ],
  find
});

function find({ load }: PageContext): FoundInPage[] {
  const { largest } = load;
  if (!largest) return [];
  const found = load.resources.flatMap(({ kind, endMs, transferBytes, unusedShare, url }, index) => {
    const isCode = kind === 'script' || kind === 'style';
    if (!isCode || endMs > largest.atMs || transferBytes === null || unusedShare === null) return [];
    const unused = transferBytes * unusedShare;
    return unused >= LEAST_BYTES && unusedShare >= LEAST_UNUSED ? [{ index, url, unused, unusedShare }] : [];
  });
  if (found.length === 0) return [];
  const bytes = found.reduce((sum, { unused }) => sum + unused, 0);
  const most = found.reduce((best, one) => (one.unused > best.unused ? one : best));
  return [
    {
      title: 'Unused before the paint',
      severity: 'medium',
      sentence: `${formatBytes(bytes)} of ${plural(found.length, 'file')} that came before the largest paint were not used until then: most of all ${fileName(most.url)}, ${formatShare(most.unusedShare)} of it.`,
      remedy: 'Load what is not needed at first when it is.',
      figures: { bytes, files: found.length },
      evidence: { resources: found.map(({ index }) => index), tasks: [] },
      cost: 0
    }
  ];
}
