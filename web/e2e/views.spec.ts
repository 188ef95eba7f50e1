import AxeBuilder from '@axe-core/playwright';
import { expect, test as base, type Browser, type Locator, type Page } from '@playwright/test';
import { forgetMoves, movesOf, noteMoves } from './moves';
import { DEMO } from './servers';
import { sendTraffic } from './traffic';

interface Looker {
  page: Page;
  /** What went wrong in the page since it was last asked. */
  errors: () => string[];
}
async function newLooker(browser: Browser): Promise<Looker> {
  const page = await browser.newPage({ baseURL: DEMO.url, viewport: { width: 1280, height: 800 } });
  const seen: string[] = [];
  // Axe tries to run in the frame that shows a brief, in which nothing runs: that is meant.
  const isAxe = (text: string): boolean => text.startsWith("Blocked script execution in 'about:srcdoc'");
  page.on('console', (message) => {
    if (message.type() === 'error' && !isAxe(message.text())) seen.push(message.text());
  });
  page.on('pageerror', (error) => seen.push(error.message));
  return { page, errors: () => seen.splice(0) };
}
/** One page looks at all views: a browser that begins anew for each would load everything again. */
const test = base.extend<object, { looker: Looker }>({
  looker: [
    async ({ browser }, use) => {
      const looker = await newLooker(browser);
      await use(looker);
      await looker.page.close();
    },
    { scope: 'worker' }
  ]
});

/** Opens one view of the demo profile of the tides service. */
async function openShow(page: Page, show: string, drawn: Locator): Promise<void> {
  await page.goto('/profiles?last=3h');
  const href = await page.getByRole('link', { name: /^cpu-tides-7\.2/ }).getAttribute('href');
  await page.goto(`${href!.split('?')[0]}?show=${show}`);
  await expect(drawn).toBeVisible();
}

/** Opens a main view and waits until it is drawn. */
const VIEWS: Record<string, (page: Page) => Promise<void>> = {
  overview: async (page) => {
    await page.goto('/');
    await expect(page.locator('tbody tr').first()).toBeVisible();
  },
  endpoint: async (page) => {
    await page.goto('/endpoint?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth');
    await expect(page.getByRole('application', { name: /Latency over time/ })).toBeVisible();
  },
  calls: async (page) => {
    await page.goto('/calls');
    await expect(page.getByRole('table', { name: 'Calls' }).getByRole('link').first()).toBeVisible();
  },
  'call group': async (page) => {
    await page.goto('/calls?kind=database');
    await page.getByRole('table', { name: 'Calls' }).getByRole('row').nth(1).click();
    await expect(page.getByTestId('statement')).toBeVisible();
  },
  hosts: async (page) => {
    await page.goto('/hosts');
    await expect(
      page
        .getByRole('table', { name: /^Processes of/ })
        .getByRole('row')
        .nth(1)
    ).toBeVisible();
  },
  findings: async (page) => {
    await page.goto('/findings');
    await expect(page.getByRole('link', { name: 'Open a typical one' }).first()).toBeVisible();
  },
  failures: async (page) => {
    await page.goto('/failures');
    await expect(page.getByRole('table', { name: 'Failures' }).getByRole('link').first()).toBeVisible();
  },
  'a failure': async (page) => {
    await page.goto('/failures');
    await page.getByRole('table', { name: 'Failures' }).getByRole('link').first().click();
    await page.getByRole('button', { name: 'Mark as fixed…' }).click();
    await expect(page.getByRole('button', { name: 'Mark it' })).toBeVisible();
  },
  pages: async (page) => {
    await page.goto('/pages');
    await expect(page.getByRole('link', { name: /^\/office\/board/ })).toBeVisible();
  },
  'a page': async (page) => {
    await page.goto('/pages');
    await page.getByRole('link', { name: /^\/office\/board/ }).click();
    await expect(page.getByRole('table', { name: 'Slowest loads' })).toBeVisible();
  },
  'a page load': async (page) => {
    await page.goto('/pages/1');
    await page.getByRole('table', { name: 'Slowest loads' }).getByRole('link').first().click();
    await expect(page.getByRole('treegrid', { name: 'What the page loaded' })).toBeVisible();
  },
  'a visit': async (page) => {
    await page.goto('/pages/1');
    await page.getByRole('table', { name: 'Slowest loads' }).getByRole('link').first().click();
    await page.getByRole('link', { name: 'Its visit' }).click();
    await expect(page.getByRole('grid', { name: 'The visit' })).toBeVisible();
  },
  'two page loads': async (page) => {
    await page.goto('/pages/1');
    const loads = page.getByRole('table', { name: 'Slowest loads' }).getByRole('link');
    const [after, before] = await Promise.all(
      [0, 1].map(async (i) => /loads\/([0-9a-f]{32})/.exec((await loads.nth(i).getAttribute('href'))!)![1])
    );
    await page.goto(`/compare/loads?before=${before}&after=${after}`);
    await expect(page.getByRole('table', { name: 'Vitals of both loads' })).toBeVisible();
  },
  crashes: async (page) => {
    await page.goto('/crashes');
    await expect(page.getByRole('table', { name: 'Crashes' }).getByRole('link').first()).toBeVisible();
  },
  'a crash': async (page) => {
    await page.goto('/crashes');
    await page.getByRole('table', { name: 'Crashes' }).getByRole('link').first().click();
    await expect(page.getByRole('region', { name: 'The program or the place' })).toBeVisible();
  },
  logs: async (page) => {
    await page.goto('/logs?level=warn');
    await page.getByRole('table', { name: 'Log records' }).getByRole('link').first().click();
    await expect(page.getByRole('region', { name: 'Record' })).toBeVisible();
  },
  'a request with its log': async (page) => {
    await page.goto('/logs?text=held+for+another');
    await page.getByRole('table', { name: 'Log records' }).getByRole('link').first().click();
    await page.getByRole('link', { name: 'The span it was written in' }).click();
    await expect(page.getByRole('region', { name: 'Log', exact: true })).toBeVisible();
  },
  'a rule': async (page) => {
    await page.goto('/findings/query-per-row');
    await expect(page.getByRole('heading', { name: 'One query per row' })).toBeVisible();
  },
  'keep rules': async (page) => {
    await page.goto('/evidence/keep');
    await expect(page.getByTestId('keep-preview')).toContainText('would have kept');
  },
  'a request beside a normal one': async (page) => {
    await page.goto('/requests?release=7.3&service=berths');
    await page.getByRole('link', { name: 'Open the slowest' }).click();
    await page.getByRole('link', { name: 'beside a normal one' }).click();
    await expect(page.getByRole('region', { name: 'Beside a normal request' })).toBeVisible();
  },
  requests: async (page) => {
    await page.goto('/requests');
    await expect(
      page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first()
    ).toBeVisible();
  },
  request: async (page) => {
    await page.goto('/requests');
    await page.getByRole('link', { name: 'Open the slowest' }).click();
    await expect(page.getByRole('treegrid')).toBeVisible();
  },
  profiles: async (page) => {
    await page.goto('/profiles');
    await expect(page.getByRole('link', { name: /cpu-/ }).first()).toBeVisible();
  },
  profile: async (page) => {
    await page.goto('/profiles');
    await page
      .getByRole('link', { name: /cpu-tides/ })
      .first()
      .click();
    await expect(page.getByRole('option').first()).toBeVisible();
  },
  'a profile from the leaves': (page) => openShow(page, 'leaves', page.getByTestId('flame')),
  'a profile in time order': (page) => openShow(page, 'time', page.getByTestId('flame')),
  'a call tree': (page) => openShow(page, 'tree', page.getByRole('treeitem').first()),
  packages: (page) => openShow(page, 'packages', page.getByRole('cell', { name: 'application' })),
  'a profile’s lines': (page) => openShow(page, 'lines', page.getByTestId('source-lines')),
  'a profile’s requests': (page) => openShow(page, 'requests', page.getByTestId('during-requests')),
  'thread dumps': async (page) => {
    await page.goto('/threads');
    await expect(page.getByRole('table', { name: 'Thread dumps' }).getByRole('link').first()).toBeVisible();
  },
  threads: async (page) => {
    await page.goto('/threads');
    await page.getByRole('link', { name: 'Show who blocks whom' }).click();
    await page
      .getByRole('button', { name: /roster-sync/ })
      .first()
      .click();
    await expect(page.getByRole('region', { name: 'Selected thread' })).toBeVisible();
    await forgetMoves(page);
  },
  'heap dumps': async (page) => {
    await page.goto('/heap');
    await expect(page.getByRole('table', { name: 'Heap dumps' }).getByRole('link').first()).toBeVisible();
  },
  heap: async (page) => {
    await page.goto('/heap');
    await page.getByRole('table', { name: 'Heap dumps' }).getByRole('link').first().click();
    await expect(page.getByRole('list', { name: 'The path from a root' })).toBeVisible();
  },
  'heap objects': async (page) => {
    await page.goto('/heap');
    const href = await page
      .getByRole('table', { name: 'Heap dumps' })
      .getByRole('link')
      .first()
      .getAttribute('href');
    await page.goto(`${href!.split('?')[0]}?show=objects&class=TideWindow`);
    await page.getByRole('table', { name: 'Objects' }).getByRole('link').first().click();
    await expect(page.getByRole('region', { name: 'Selected object' })).toContainText('station');
  },
  compare: async (page) => {
    await page.goto('/compare');
    await page.getByRole('link', { name: /^berths POST \/calls\/:id\/berth: load run/ }).click();
    await expect(page.getByRole('main')).toContainText(/with 95.% confidence/, { timeout: 60_000 });
  },
  cases: async (page) => {
    await page.goto('/cases');
    await expect(page.getByLabel('Question of the new case')).toBeVisible();
  },
  'a case': async (page) => {
    await page.goto('/?service=berths');
    await page.getByRole('button', { name: 'Open a case' }).first().click();
    await expect(page.getByTestId('entry').first()).toBeVisible({ timeout: 30_000 });
  },
  'a finished case': async (page) => {
    await page.goto('/cases');
    await page
      .getByRole('table')
      .getByRole('link', { name: /one query per row/ })
      .last()
      .click();
    await expect(page.getByTestId('entry')).toHaveCount(11);
    await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText('The cause is stated');
  },
  'what a pin goes to': async (page) => {
    await page.goto('/');
    await expect(page.locator('a[data-row]').first()).toBeVisible();
    await page.evaluate(() => localStorage.removeItem('tromix-case'));
    await page.reload();
    await expect(page.locator('a[data-row]').first()).toBeVisible();
    await page.keyboard.press('p');
    await expect(page.getByRole('dialog', { name: 'Pin to which case?' })).toBeVisible();
  },
  'a brief': async (page) => {
    await page.goto('/?service=berths');
    await expect(page.locator('a[data-row]').first()).toBeVisible();
    await page.keyboard.press('b');
    await expect(page.getByRole('dialog', { name: 'Brief' }).locator('iframe')).toBeVisible();
  },
  'what can be compared': async (page) => {
    await page.goto('/compare');
    await expect(page.getByRole('link', { name: /berths 7\.2 → 7\.3/ })).toBeVisible();
  },
  'why slow': async (page) => {
    await page.goto('/why?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth');
    await expect(page.getByRole('region', { name: 'Why' })).toContainText('Database', { timeout: 60_000 });
  },
  'compare profiles': async (page) => {
    await page.goto('/compare/profiles');
    for (const [side, name, address] of [
      ['The earlier profile', /tides 7\.2.*cpu/, /before=/],
      ['The later profile', /tides 7\.3.*cpu/, /after=/]
    ] as const) {
      const select = page.getByLabel(side);
      const option = select.locator('option', { hasText: name }).first();
      await select.selectOption((await option.getAttribute('value'))!);
      // The second choice must not overtake the first on its way into the address.
      await expect(page).toHaveURL(address);
    }
    await expect(page.getByRole('option', { name: /StampError/ }).first()).toBeVisible();
  },
  'load runs': async (page) => {
    await page.goto('/load');
    await expect(page.getByRole('table', { name: 'Load runs' }).getByRole('link').first()).toBeVisible();
    await page.getByText('Method, headers, body').click();
  },
  'a load run': async (page) => {
    await page.goto('/load');
    await page.getByRole('table', { name: 'Load runs' }).getByRole('link').first().click();
    await expect(page.getByRole('table', { name: 'Requests of the run' })).toBeVisible();
  },
  connect: async (page) => {
    await page.goto('/connect');
    await expect(page.getByRole('region', { name: 'How to send' })).toBeVisible();
  },
  'all recordings of an endpoint': async (page) => {
    await page.goto('/profiles/scope?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth&last=1h');
    await expect(page.getByTestId('flame')).toBeVisible();
    await expect(page.getByRole('option', { name: /craneHours/ })).toBeVisible();
  },
  'a function over time': async (page) => {
    await page.goto('/profiles/scope?service=berths&show=over&last=1h');
    await expect(page.getByRole('application', { name: /^CPU of / })).toBeVisible();
    await expect(page.getByRole('table', { name: 'Endpoints that run it' })).toBeVisible();
  },
  'recordings of two releases': async (page) => {
    await page.goto(
      '/compare/releases?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth&before=7.2&after=7.3&last=1h'
    );
    await expect(page.getByTestId('flame')).toBeVisible();
  },
  'one function from inside': async (page) => {
    await page.goto('/recorder/observe');
    await expect(page.getByRole('heading', { name: 'Functions are not looked at here' })).toBeVisible();
  },
  recorder: async (page) => {
    await page.goto('/recorder');
    await expect(page.getByText('No process with an open inspector was found.')).toBeVisible();
  },
  explore: async (page) => {
    await page.goto('/requests/explore?service=berths&figure=p95');
    await expect(page.getByRole('table', { name: 'Groups' }).getByRole('row').nth(1)).toBeVisible();
  },
  watches: async (page) => {
    await page.goto('/watches');
    await expect(page.getByRole('table', { name: 'Watches' }).getByRole('link').first()).toBeVisible();
  },
  'a watch': async (page) => {
    await page.goto('/watches');
    await page.getByRole('link', { name: 'Berthing is slow' }).first().click();
    await expect(page.getByRole('application', { name: /^p95 of POST/ })).toBeVisible();
  },
  'a watch before it is saved': async (page) => {
    await page.goto('/endpoint?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth');
    await expect(page.getByRole('application', { name: /Latency over time/ })).toBeVisible();
    await page.keyboard.press('w');
    await expect(page.getByRole('dialog', { name: /^Watch/ }).getByText(/^On: p95 of/)).toBeVisible();
  },
  webhooks: async (page) => {
    await page.goto('/watches/webhooks');
    await expect(page.getByRole('form', { name: 'New webhook' })).toBeVisible();
  },
  boards: async (page) => {
    await page.goto('/boards');
    await expect(page.getByRole('link', { name: 'Berthing, on call' })).toBeVisible();
  },
  'a board': async (page) => {
    await page.goto('/boards');
    await page.getByRole('link', { name: 'Berthing, on call' }).click();
    await expect(page.getByRole('application', { name: /^Berthing over time/ })).toBeVisible();
  },
  evidence: async (page) => {
    await page.goto('/evidence');
    await expect(page.getByText('Drop a file here')).toBeVisible();
  }
};

/** What moves depends on what comes first, and so on the machine: a command of its own looks for it (`npm run moves`), while requests keep coming. */
const CHECKS_MOVES = process.env.CHECK_MOVES === '1';

let endTraffic = (): void => undefined;
test.beforeAll(() => {
  if (CHECKS_MOVES) endTraffic = sendTraffic(DEMO.url);
});
test.afterAll(() => endTraffic());

for (const [name, open] of Object.entries(VIEWS)) {
  test(`${name}: accessible in light and dark, within the window, no error`, async ({ looker, browser }) => {
    // What moves is seen by a browser that has nothing yet.
    const { page, errors } = CHECKS_MOVES ? await newLooker(browser) : looker;
    // What one view leaves behind is not there for the next; a page that has none yet has no storage.
    await page.evaluate(() => localStorage.clear()).catch(() => undefined);
    errors();
    await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' });
    if (CHECKS_MOVES) await noteMoves(page);
    await open(page);
    await page.waitForTimeout(CHECKS_MOVES ? 2500 : 600);
    if (CHECKS_MOVES) expect(await movesOf(page)).toEqual([]);
    expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
    // Nothing is cut off at the right either.
    for (const landmark of await page.locator('main, aside, header').all()) {
      const box = (await landmark.boundingBox())!;
      expect(box.x + box.width).toBeLessThanOrEqual(1280);
    }
    expect(await seriousViolations(page)).toEqual([]);
    // The structure is the same in dark: only the colours can break a rule.
    await page.emulateMedia({ colorScheme: 'dark' });
    await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
    await page.waitForTimeout(300);
    expect(await seriousViolations(page, { runOnly: { type: 'rule', values: ['color-contrast'] } })).toEqual(
      []
    );
    expect(errors()).toEqual([]);
    if (CHECKS_MOVES) await page.close();
  });
}

type RunOptions = Parameters<AxeBuilder['options']>[0];

/**
 * The violations that shut somebody out, each with the elements that cause it.
 * Selectors and passes are not asked for: they take most of the time of a check. No view has frames.
 */
async function seriousViolations(page: Page, only: RunOptions = {}): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page })
    .setLegacyMode()
    .options({ resultTypes: ['violations'], selectors: false, ...only })
    .analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`);
}
