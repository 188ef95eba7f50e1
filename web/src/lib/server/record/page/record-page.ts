import { setTimeout as sleep } from 'node:timers/promises';
import { NETWORKS, type NetworkName } from '@tromix/core/pages/slow-down';
import { unusedShare, type CoverageRange } from '@tromix/core/pages/unused';
import { maskUrl } from '@tromix/core/mask/url';
import type { Place } from '../addresses';
import { InspectorError } from '../inspector';
import { BrowserTarget } from './browser-target';

export interface PageOrder {
  url: string;
  device: 'desktop' | 'phone';
  /** Times slower than the machine is. */
  cpu: number;
  network: NetworkName;
  service: string;
  release: string;
}

/** What came of it. */
export interface RecordedPage {
  /** Parts of the load as the page tells them, each with when it came, epoch microseconds. */
  parts: { text: string; atUs: number }[];
  /** V8's CPU profile, and when it begins, milliseconds from the start of the navigation. */
  profile: string;
  profileStartMs: number;
  /** Share of each script that did not run in a second load, by its masked address. */
  unused: [url: string, share: number][];
}

/** A page must be over within this time, also one that is slowed down. */
const LOAD_MS = 90_000;
/** It is told two seconds after its load event, when it is idle. */
const TOLD_MS = 8000;
/** Between samples, microseconds. */
const SAMPLED_US = 500;
/** A profile of such a time is large. */
const PROFILE_MS = 60_000;

const HIDE = `Object.defineProperty(document, 'visibilityState', { value: 'hidden', configurable: true });
  document.dispatchEvent(new Event('visibilitychange', { bubbles: true }))`;

/** Where pages tell of their loads by themselves: nobody waits for these. */
const TELLING = ['*/collect', '*/collect?*', '*/collect/profile/*'];

/**
 * Loads a page in a browser: once slowed down, with its profile, and once more to see which script it does not use.
 * @param script tells of the load from within the page: see collect/src/record.ts
 * @throws InspectorError
 */
export async function recordPage(place: Place, order: PageOrder, script: string): Promise<RecordedPage> {
  const told = await toldLoad(place, order, script);
  // Which script runs is the same however fast it does; counting it would slow down the load that is timed.
  return { ...told, unused: await unusedIn(place, order).catch(() => []) };
}

async function toldLoad(
  place: Place,
  order: PageOrder,
  script: string
): Promise<Omit<RecordedPage, 'unused'>> {
  const target = await BrowserTarget.open(place);
  try {
    await target.showAs(order.device);
    await target.slowDown(order.cpu, NETWORKS[order.network].limits);
    const parts: RecordedPage['parts'] = [];
    target.on(({ method, params }) => {
      if (method === 'Runtime.bindingCalled' && params.name === 'tromixTell')
        parts.push({ text: String(params.payload), atUs: Date.now() * 1000 });
    });
    const { service, release } = order;
    await target.send('Runtime.enable');
    await target.send('Runtime.addBinding', { name: 'tromixTell' });
    await target.send('Page.enable');
    await target.send('Page.addScriptToEvaluateOnNewDocument', {
      source: `window.tromixRecord = ${JSON.stringify({ service, release })};\n${script}`
    });
    await target.send('Performance.enable');
    await target.send('Profiler.enable');
    await target.send('Profiler.setSamplingInterval', { interval: SAMPLED_US });
    await target.send('Profiler.start');
    await navigate(target, order.url);
    await untilTold(parts);
    const { metrics } = await target.send<{ metrics: { name: string; value: number }[] }>(
      'Performance.getMetrics'
    );
    const { profile } = await target.send<{ profile: { startTime: number } }>(
      'Profiler.stop',
      {},
      PROFILE_MS
    );
    // As if it were hidden: so the last word on what shifted is said.
    await target.send('Runtime.evaluate', { expression: HIDE });
    await sleep(300);
    // Both are seconds, and microseconds, of one clock that only goes forward.
    const navigation = metrics.find(({ name }) => name === 'NavigationStart')?.value ?? 0;
    return {
      parts,
      profile: JSON.stringify(profile),
      profileStartMs: profile.startTime / 1000 - navigation * 1000
    };
  } finally {
    await target.close();
  }
}

async function navigate(target: BrowserTarget, url: string): Promise<void> {
  await target.send('Network.enable');
  await target.send('Network.setBlockedURLs', { urls: TELLING });
  const loaded = target.next(
    'Page.loadEventFired',
    LOAD_MS,
    `The page was not loaded within ${LOAD_MS / 1000} s.`
  );
  // What fails first is told; the other may fail afterwards.
  loaded.catch(() => undefined);
  const { errorText } = await target.send<{ errorText?: string }>('Page.navigate', { url }, LOAD_MS);
  if (errorText) throw new InspectorError(`The browser could not load the page: ${errorText.slice(0, 200)}.`);
  await loaded;
}

async function untilTold(parts: readonly unknown[]): Promise<void> {
  for (let waited = 0; parts.length === 0; waited += 100) {
    if (waited > TOLD_MS)
      throw new InspectorError(
        'The page told nothing of its load: it may be shown in the background, or end its scripts.'
      );
    await sleep(100);
  }
}

async function unusedIn(place: Place, { url, device }: PageOrder): Promise<RecordedPage['unused']> {
  const target = await BrowserTarget.open(place);
  try {
    await target.showAs(device);
    await target.send('Page.enable');
    await target.send('Profiler.enable');
    await target.send('Profiler.startPreciseCoverage', { callCount: false, detailed: true });
    await navigate(target, url);
    const { result } = await target.send<{
      result: { url: string; functions: { ranges: CoverageRange[] }[] }[];
    }>('Profiler.takePreciseCoverage', {}, PROFILE_MS);
    return result
      .filter(({ url: address }) => /^https?:/.test(address))
      .flatMap(({ url: address, functions }): [string, number][] => {
        const share = unusedShare(functions.flatMap(({ ranges }) => ranges));
        return share === null ? [] : [[maskUrl(address), share]];
      });
  } finally {
    await target.close();
  }
}
