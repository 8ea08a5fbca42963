import { choose, expect, nav, openAt, openDemo, test, levels } from './fixtures';

test('a match is made and tuned with the keyboard alone', async ({ page }) => {
  await openDemo(page);
  const tabTo = async (name: RegExp) => {
    for (let i = 0; i < 80; i++) {
      await page.keyboard.press('Tab');
      const focused = await page.evaluate(() => {
        const e = document.activeElement!;
        return `${e.getAttribute('aria-label') ?? ''} ${e.textContent ?? ''}`;
      });
      if (name.test(focused)) return;
    }
    throw new Error(`${String(name)} cannot be reached with Tab`);
  };
  await tabTo(/Recipes/);
  await page.keyboard.press('Enter');
  await tabTo(/^\s*Quarter-wave match/);
  await page.keyboard.press('Enter');
  await tabTo(/^Load /);
  await page.keyboard.press('Control+a');
  await page.keyboard.type('35 ohm');
  await tabTo(/Make the design/);
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/design\//);
  await expect(page.getByLabel('value zl')).toBeVisible();
  await tabTo(/value zl/);
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await expect(page.getByLabel('value zl')).toHaveValue('37 ohm');
  await tabTo(/^\s*quarter wave/);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('quarter wave: width (follows)')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('value zl')).toHaveValue('35 ohm');
});

test('a step is laid out in parts and not as a page, and joints can be taken hold of where they are drawn', async ({
  page,
  browser,
}) => {
  await openAt(page, '/p/ditchwater/design/hybrid');
  const field = page.getByLabel('value z0', { exact: true });
  await field.focus();
  for (let i = 0; i < 3; i++) {
    await field.press('Shift+ArrowUp');
    await page.waitForTimeout(400);
  }
  await browser.startTracing(page, { categories: ['devtools.timeline'] });
  for (let i = 0; i < 5; i++) {
    await field.press('Shift+ArrowUp');
    await page.waitForTimeout(400);
  }
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString()) as {
    traceEvents: { name: string; args: { beginData?: { partialLayout: boolean } } }[];
  };
  const laidOut = traceEvents.flatMap((e) =>
    e.name === 'Layout' && e.args.beginData ? [e.args.beginData.partialLayout] : [],
  );
  expect(laidOut.length).toBeGreaterThan(3);
  // What the review says may take the page once, but not every step.
  expect(laidOut.filter((partial) => !partial).length).toBeLessThan(2);
  // The buttons come when the hand does: on a joint that is drawn there is one.
  await field.fill('70 ohm');
  const drawn = page.locator('path.joints').first();
  await expect(drawn).toHaveAttribute('d', /a3 3/);
  const stage = page.getByRole('group', { name: 'copper, to scale' });
  await stage.hover({ position: { x: 5, y: 60 } });
  const { x: left, y: top } = (await stage.boundingBox())!;
  const places = [...(await drawn.getAttribute('d'))!.matchAll(/M([\d.]+) ([\d.]+)a/g)].map(
    ([, x, y]) => [Number(x) + 3 + left, Number(y) + top] as const,
  );
  expect(places.length).toBeGreaterThan(7);
  for (const [x, y] of places)
    expect(
      await page.evaluate(
        ([px, py]) => document.elementFromPoint(px, py)?.closest('[data-node]') !== null,
        [x, y],
      ),
    ).toBe(true);
});

test('values are added, named, used and removed', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Add a named value' }).click();
  await page.keyboard.type('quarter');
  await page.keyboard.press('Enter');
  await page.getByLabel('value quarter').fill('guided(z1)/4');
  const values = page.getByRole('region', { name: 'Named values' });
  await expect(values).toContainText('4.723\u2009mm');
  await expect(page.getByText('quarter: nothing uses this value.')).toBeVisible();
  await page.getByRole('button', { name: 'quarter wave', exact: true }).click();
  await page.getByLabel('quarter wave: length (follows)').fill('quarter - 0.2 mm');
  await expect(page.getByText('quarter: nothing uses this value.')).toBeHidden();
  await expect(levels(page)).toContainText('11.0');
  await page.getByLabel('name of quarter', { exact: true }).fill('q');
  await page.getByLabel('name of quarter', { exact: true }).press('Enter');
  await expect(page.getByLabel('quarter wave: length', { exact: true })).toHaveValue('q - 0.2 mm');
  await page.getByLabel('quarter wave: length', { exact: true }).fill('4.5 mm');
  await page.getByRole('button', { name: 'Remove q' }).click();
  await expect(page.getByLabel('value q')).toBeHidden();
  await page.getByLabel('value f0').fill('m');
  await expect(page.getByText(/The response waits: f0: needs a frequency/)).toBeVisible();
});

test('the waterline moves, the ledger folds away on a narrow screen, the look can be chosen', async ({
  page,
}) => {
  await openDemo(page);
  const waterline = page.getByRole('separator', { name: /^waterline/ });
  const before = (await waterline.boundingBox())!;
  await page.mouse.move(before.x + 300, before.y + 20);
  await page.mouse.down();
  await page.mouse.move(before.x + 300, before.y + 120, { steps: 5 });
  await page.mouse.up();
  const after = (await waterline.boundingBox())!;
  expect(Math.abs(after.y - before.y - 100)).toBeLessThan(6);
  await waterline.focus();
  await page.keyboard.press('ArrowUp');
  expect((await waterline.boundingBox())!.y).toBeLessThan(after.y - 10);
  await page.setViewportSize({ width: 1000, height: 700 });
  await page.reload();
  await expect(page.getByRole('button', { name: /unfold the ledger/ })).toBeVisible();
  await page.getByRole('button', { name: /unfold the ledger/ }).click();
  await expect(page.getByLabel('value f0')).toBeVisible();
  for (const look of ['light', 'dark']) {
    await choose(page, page.getByRole('button', { name: /^Look/ }), new RegExp(`^${look}`, 'i'));
    await expect(page.locator('html')).toHaveAttribute('data-theme', look);
  }
});

test('the Smith chart zooms without losing the way back, and reads what is pointed at', async ({ page }) => {
  await openDemo(page);
  const chart = page.getByRole('application', { name: 'reflection on the Smith chart' });
  await expect(levels(page)).toContainText('10.55');
  const rim = () => chart.locator('> circle').first().getAttribute('r');
  const whole = await rim();
  const box = (await chart.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2 + 20, box.y + box.height / 2 - 20);
  await page.mouse.wheel(0, -600);
  await expect.poll(async () => Number(await rim())).toBeGreaterThan(Number(whole) * 1.5);
  await chart.focus();
  await page.keyboard.press('0');
  expect(await rim()).toBe(whole);
  const curve = (await chart.locator('path').first().boundingBox())!;
  await page.mouse.move(curve.x + curve.width - 1, curve.y + 2);
  await expect(page.getByText(/VSWR 1\.\d/)).toBeVisible();
});

test('a measured load from a file is matched, on stripline too', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Recipes');
  await page.getByRole('link', { name: /Quarter-wave match/ }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'or one-port data from a file' }).click();
  const buffer = Buffer.from('# GHz S RI R 50\n9 0.3 -0.30\n10 0.3 -0.40\n11 0.25 -0.45\n12 0.2 -0.5\n');
  await (await chooser).setFiles([{ name: 'detector.s1p', mimeType: 'text/plain', buffer }]);
  await page.getByRole('radio', { name: 'Stripline' }).click();
  await page.getByLabel('Design frequency').fill('20 GHz');
  await expect(page.getByText(/the data reaches from 9/).first()).toBeVisible();
  await page.getByLabel('Design frequency').fill('10.5 GHz');
  await page.getByRole('button', { name: 'Make the design' }).click();
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('detector.s1p');
  await expect(levels(page)).toContainText('below \u221280 dB');
  await page.reload();
  await expect(levels(page)).toContainText('10.5');
  await nav(page, 'Project');
  await expect(page.getByText('used by 50 to measured load')).toBeVisible();
});
