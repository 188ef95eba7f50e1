import type { PageResource } from '../pages/page-load';
import { formatBytes, plural } from '../text/format';
import { defineRule } from './define-rule';
import { severityOf } from './finding';
import { fileName, inMs, isMuch, OF_THE_WAY, type FoundInPage, type PageContext } from './page-finding';

/** The page fetches script before anything large can be painted. */
export const scriptBeforePaint = defineRule({
  rule: 'script-before-paint',
  name: 'Script before the largest paint',
  looksFor: 'Scripts whose download is on the way to the largest paint.',
  thresholds: [OF_THE_WAY],
  why: 'Until the script is there the page has nothing to show, however fast the server answered.',
  doThis: [
    'Take out what the first picture does not need: load it when it is used.',
    'Put what is to be seen into the document, so that it does not wait for script.',
    'Send less: without what nobody uses, compressed, from near by.'
  ],
  find
});

function find(context: PageContext): FoundInPage[] {
  const { load, chain } = context;
  const steps = chain.flatMap((step) =>
    step.of === 'resource' && load.resources[step.index].kind === 'script' ? [step] : []
  );
  const bookedMs = steps.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0);
  if (!load.largest || !isMuch(bookedMs, context)) return [];
  const { atMs } = load.largest;
  const before = load.resources.flatMap((one, i) => (one.kind === 'script' && one.endMs <= atMs ? [i] : []));
  const sizes = before.map((i) => load.resources[i].transferBytes);
  const bytes = sizes.every((size) => size !== null) ? sizes.reduce((sum, size) => sum + size, 0) : null;
  const last = steps.reduce((late, one) => (one.toMs > late.toMs ? one : late));
  const script = load.resources[last.index];
  const gainMs = gainWithout(load.resources, last.index);
  const without =
    gainMs >= 1
      ? ` Without ${fileName(script.url)}${unusedWords(script)} it could come ${inMs(gainMs)} sooner at best.`
      : '';
  return [
    {
      title: 'Script before the largest paint',
      severity: severityOf(bookedMs, atMs),
      sentence: `${plural(before.length, 'script')}${bytes === null ? '' : `, ${formatBytes(bytes)},`} came before the largest paint; ${inMs(bookedMs)} of its ${inMs(atMs)} went by while they were fetched.${without}`,
      remedy: 'Load later what the first picture does not need.',
      figures: { bookedMs, scripts: before.length, bytes, gainMs },
      evidence: { resources: before, tasks: [] },
      cost: bookedMs * 1e6
    }
  ];
}

const unusedWords = ({ unusedShare }: PageResource): string =>
  unusedShare !== null && unusedShare >= 0.5
    ? `, ${Math.round(unusedShare * 100)} % of it unused until then,`
    : '';

/** How much sooner what begins things would all be over without one of them: until the one before it ends. */
function gainWithout(resources: readonly PageResource[], without: number): number {
  const { startMs, endMs } = resources[without];
  const others = resources.flatMap((one, i) =>
    i !== without && ['script', 'style', 'data', 'document'].includes(one.kind) && one.endMs <= endMs
      ? [one.endMs]
      : []
  );
  return endMs - Math.max(startMs, ...others);
}
