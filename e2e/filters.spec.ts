import { drawn, expect, expectAccessible, levels, nav, openAt, openDemo, test } from './fixtures';

test('from a specification to a design that keeps it, by keyboard alone', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Recipes');
  await page.getByRole('link', { name: 'from a specification' }).press('Enter');
  const type = async (name: string, text: string) => {
    await page.getByRole('textbox', { name, exact: true }).focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.type(text);
  };
  await type('Passes to', '5 GHz');
  await type('Passes to', '6 GHz');
  await type('Stops from', '10.55 GHz');
  await type('by at least', '40 dB');
  await expect(page.getByRole('status', { name: 'least order' })).toHaveText('6');
  const chart = page.getByRole('region', { name: 'Response against the limits' });
  expect(await drawn(chart.locator('path[fill=none]').first())).toBeGreaterThan(200);

  // Wrong wishes say so where they stand, and nothing is made of them.
  await type('by at least', '0.1 dB');
  await expect(page.getByText('must be more than what the pass band may lose')).toBeVisible();
  await type('by at least', '40 dB');

  const list = page.getByRole('region', { name: 'Realisations' });
  await expect(list.getByRole('status')).toHaveText(/each with the least order/, { timeout: 60_000 });
  const kept = list.getByRole('row').filter({ hasText: 'kept' });
  expect(await kept.count()).toBeGreaterThan(0);
  // Its copper is drawn, and its curve over the response when it is ticked.
  expect(
    await drawn(
      kept
        .first()
        .getByRole('img', { name: /copper/ })
        .locator('path')
        .first(),
    ),
  ).toBeGreaterThan(50);
  const curves = await chart.locator('path[fill=none]').count();
  await kept.first().getByRole('checkbox').press('Space');
  await expect(chart.locator('path[fill=none]')).toHaveCount(curves + 1);
  expect(await drawn(chart.locator('path[fill=none]').last())).toBeGreaterThan(100);
  await expectAccessible(page);

  await kept
    .first()
    .getByRole('button', { name: /^make / })
    .press('Enter');
  await expect(page.getByRole('region', { name: 'From port 1' })).toBeVisible();
  const modelled = levels(page).locator('[data-level=modelled]');
  await expect(modelled).toContainText(/to [67]\.\d+\u2009GHz/);
  await page.getByRole('button', { name: 'undo' }).press('Enter');
  await expect(page.getByRole('button', { name: 'redo' })).toBeEnabled();
});

test('a hairpin that lies beside its band is brought back by one action', async ({ page }) => {
  await openAt(
    page,
    '/p/ditchwater/recipes/bandpass-hairpin?freq=5.8%20GHz&bandwidth=8%25&shape=chebyshev&feed=coupled',
  );
  await expect(page.getByRole('status').filter({ hasText: 'modelled' })).toContainText(/passes/);
  await page.getByRole('button', { name: 'Make the design' }).press('Enter');
  const modelled = levels(page).locator('[data-level=modelled]');
  // Its bends put it well above the band.
  await expect(modelled).toContainText(/^.*6\.\d+\u2009GHz to/);
  await page.getByRole('button', { name: 'Retune' }).press('Enter');
  await page.getByRole('button', { name: 'Take it' }).press('Enter', { timeout: 60_000 });
  await expect(modelled).toContainText(/5\.[45]\d*\u2009GHz to 6\.[01]\d*\u2009GHz/);
  const plot = page.getByRole('region', { name: 'From port 1' });
  for (const curve of await plot.locator('path[fill=none]').all())
    expect(await drawn(curve)).toBeGreaterThan(50);
});
