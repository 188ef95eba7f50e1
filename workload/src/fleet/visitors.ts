import { setTimeout as sleep } from 'node:timers/promises';
import { NETWORKS, type NetworkLimits } from '@tromix/core/pages/slow-down';
import { chromium, devices, type Browser, type Page } from '@playwright/test';

/** Who waits before the screens of the office: what they hold in their hands, and how they are connected. */
interface Visitor {
  device: 'desktop' | 'phone';
  /** How many times slower the processor is than this machine's. */
  cpuSlowdown: number;
  network: NetworkLimits;
}

const VISITORS: readonly Visitor[] = [
  {
    device: 'desktop',
    cpuSlowdown: 1,
    network: NETWORKS.fast.limits
  },
  {
    device: 'phone',
    cpuSlowdown: 4,
    network: NETWORKS.slow.limits
  }
];

const pick = <T>(of: readonly T[]): T => of[Math.floor(Math.random() * of.length)];
const pause = (meanMs: number): Promise<void> => sleep(meanMs * (0.6 + Math.random() * 0.8));

/** People before the screens at an address, each kind in a browser of its own, until they are stopped. Returns how many visits there were. */
export async function visitorsAt(
  gateway: string,
  executablePath: string,
  signal: AbortSignal
): Promise<number> {
  const browser = await chromium.launch({ executablePath, args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const visits = await Promise.all(
      VISITORS.map(async (visitor) => {
        let count = 0;
        while (!signal.aborted) {
          await visit(browser, visitor, gateway);
          count++;
        }
        return count;
      })
    );
    return visits.reduce((sum, count) => sum + count, 0);
  } finally {
    await browser.close();
  }
}

async function visit(browser: Browser, visitor: Visitor, gateway: string): Promise<void> {
  const context = await browser.newContext(
    visitor.device === 'phone' ? devices['Pixel 5'] : { viewport: { width: 1280, height: 800 } }
  );
  const page = await context.newPage();
  await slowDown(page, visitor);
  try {
    await page.goto(`${gateway}/office/board`, { waitUntil: 'load' });
    await pause(2600);
    await page.click('#tides');
    await pause(2500);
    if (Math.random() < 0.3) await page.click('#print');
    await pause(1200);
    await page.goto(`${gateway}/office/vessels`, { waitUntil: 'load' });
    await pause(2600);
    await page.goto(`${gateway}/office/berths/${pick([3, 17, 21, 40, 58])}`, { waitUntil: 'load' });
    await pause(2600);
    // A page is left for another: so the last word of the one before is said.
    await page.goto('about:blank');
    await sleep(300);
  } finally {
    await context.close();
  }
}

/** By the Chrome DevTools Protocol: `Network.emulateNetworkConditions`, `Emulation.setCPUThrottlingRate`. */
async function slowDown(page: Page, { cpuSlowdown, network }: Visitor): Promise<void> {
  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  await session.send('Network.emulateNetworkConditions', {
    offline: false,
    latency: network.latencyMs,
    downloadThroughput: network.downBits / 8,
    uploadThroughput: network.upBits / 8
  });
  await session.send('Emulation.setCPUThrottlingRate', { rate: cpuSlowdown });
}
