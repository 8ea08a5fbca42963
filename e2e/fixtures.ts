import AxeBuilder from '@axe-core/playwright';
import { expect, test as base, type Download, type Locator, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';

/** A page on which any error in the console, any blocked script or style, fails the test. */
export const test = base.extend<{ allowed: RegExp[] }>({
  // Messages that a test provokes on purpose.
  allowed: [[], { option: true }],
  page: async ({ page, allowed }, use) => {
    const trouble: string[] = [];
    page.on('pageerror', (error) => trouble.push(error.message));
    page.on('console', (message) => message.type() === 'error' && trouble.push(message.text()));
    await use(page);
    expect(trouble.filter((t) => !allowed.some((a) => a.test(t)))).toEqual([]);
  },
});

/** However fast the machine: what the worker says arrives late. */
export async function answerLate(page: Page, ms: number): Promise<void> {
  await page.route('**/worker-*.js', async (route) => {
    const response = await route.fetch();
    const late = `const say = self.postMessage.bind(self); self.postMessage = (...m) => setTimeout(() => say(...m), ${ms});`;
    await route.fulfill({ response, body: `${late}\n${await response.text()}` });
  });
}

/** Opens the demo project's first design. */
export async function openDemo(page: Page): Promise<void> {
  await page.goto('/');
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toBeVisible();
}

/** Opens a page of the demo project. */
export async function openAt(page: Page, path: string): Promise<void> {
  await openDemo(page);
  await page.goto(path);
}

export const nav = (page: Page, name: string): Promise<void> =>
  page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name, exact: true }).click();

/** What the levels say, between copper and response. */
export const levels = (page: Page): Locator => page.getByRole('group', { name: /^waterline/ });

/** Chooses from a menu or a list that opens over the page. */
export async function choose(page: Page, opener: Locator, item: string | RegExp): Promise<void> {
  await opener.click();
  await page
    .getByRole(/menu/.test((await opener.getAttribute('aria-haspopup')) ?? '') ? 'menuitem' : 'option', {
      name: item,
    })
    .or(page.getByRole('menuitem', { name: item }))
    .first()
    .click();
}

export async function saved(
  download: Promise<Download>,
): Promise<{ name: string; text: string; bytes: Buffer }> {
  const file = await download;
  const bytes = readFileSync(await file.path());
  return { name: file.suggestedFilename(), text: bytes.toString('utf8'), bytes };
}

/** No violation of WCAG A and AA on the page as it stands. */
export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'])
    .analyze();
  expect(
    violations.map(
      (v) =>
        `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')} ${v.nodes[0].failureSummary ?? ''}`,
    ),
  ).toEqual([]);
}

export { expect };

/** Length of what a path draws, in pixels; 0 of an empty one. */
export const drawn = (path: Locator): Promise<number> =>
  path.evaluate((e) => (e as SVGPathElement).getTotalLength());
