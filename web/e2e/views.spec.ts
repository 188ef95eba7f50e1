import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';

/** Opens a main view and waits until it is drawn. */
const VIEWS: Record<string, (page: Page) => Promise<void>> = {
  overview: async (page) => {
    await page.goto('/');
    await expect(page.locator('tbody tr').first()).toBeVisible();
  },
  requests: async (page) => {
    await page.goto('/requests');
    await expect(page.getByRole('region', { name: 'Requests' }).getByRole('link').first()).toBeVisible();
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
  evidence: async (page) => {
    await page.goto('/evidence');
    await expect(page.getByText('Drop a file here')).toBeVisible();
  }
};

for (const [name, open] of Object.entries(VIEWS)) {
  for (const colorScheme of ['light', 'dark'] as const) {
    test(`${name} in ${colorScheme}: accessible, within the window, no error`, async ({ page }) => {
      const errors: string[] = [];
      page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
      page.on('pageerror', (error) => errors.push(error.message));
      await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
      await open(page);
      await page.waitForTimeout(600);
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
      // Nothing is cut off at the right either.
      for (const landmark of await page.locator('main, aside, header').all()) {
        const box = (await landmark.boundingBox())!;
        expect(box.x + box.width).toBeLessThanOrEqual(1280);
      }
      const { violations } = await new AxeBuilder({ page }).analyze();
      const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
      expect(
        serious.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`)
      ).toEqual([]);
      expect(errors).toEqual([]);
    });
  }
}
