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
  await expect(modelled).toContainText(/to 6\.[2-9]\d*\u2009GHz/);
  await page.getByRole('button', { name: 'Retune' }).press('Enter');
  await page.getByRole('button', { name: 'Take it' }).press('Enter', { timeout: 60_000 });
  await expect(modelled).toContainText(/5\.[45]\d*\u2009GHz to 6\.[01]\d*\u2009GHz/);
  const plot = page.getByRole('region', { name: 'From port 1' });
  for (const curve of await plot.locator('path[fill=none]').all())
    expect(await drawn(curve)).toBeGreaterThan(50);
});

test('a line that is too narrow is widened, and the filter searched again around it', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/stop-filter');
  const plot = page.getByRole('region', { name: 'From port 1' });
  await expect(plot.getByText(/limits kept/)).toBeVisible();
  await page.getByRole('textbox', { name: 'value l1', exact: true }).fill('105 ohm');
  await expect(plot.getByText(/limits missed by/)).toBeVisible();

  // What may move is marked in the ledger and seen on the copper; here the stubs, one of them within ends.
  const marks = page.locator('path.free');
  for (const [name, count] of [
    ['s1', 2],
    ['s2', 3],
  ] as const) {
    await page.getByRole('button', { name: `${name}: on the tuning strip` }).press('Enter');
    await expect(marks).toHaveCount(count);
  }
  const strip = page.getByRole('region', { name: 'Tuning strip' });
  await strip.getByRole('button', { name: /^range of s2/ }).press('Enter');
  const range = page.getByRole('dialog', { name: /^range of s2/ });
  await range.getByRole('textbox', { name: /to$/ }).fill('20 ohm');
  await expect(range.getByRole('alert')).toHaveText(/must rise/);
  await range.getByRole('textbox', { name: /from$/ }).fill('26 ohm');
  await range.getByRole('textbox', { name: /to$/ }).fill('28 ohm');
  await page.keyboard.press('Escape');

  // The value lies beyond its ends: its knob reaches from them to where it is, after a reload too.
  await page.reload();
  const knob = strip.getByRole('slider', { name: /^tune s2/ });
  await expect(knob).toHaveAttribute('aria-valuemin', '26');
  await expect(knob).toHaveAttribute('aria-valuemax', /^45\.59/);

  const meet = strip.getByRole('button', { name: 'meet the limits of the plots' });
  await meet.press('Enter');
  const nearer = page.getByRole('dialog', { name: /limits/ });
  await expect(nearer).toContainText(
    /s2, stub 2 is at its (least|most), 2[68].Ω: a wider range may lead further/,
  );
  expect(await drawn(nearer.locator('path.trail'))).toBeGreaterThan(50);

  // Over the whole ranges it takes longer: it can be held back, is drawn as it goes, and ended with what there is.
  await nearer.getByRole('button', { name: 'Search the whole ranges' }).press('Enter');
  const search = page.getByRole('region', { name: 'Search for the limits' });
  await expect(search).toContainText(/states tried/);
  await search.getByRole('button', { name: 'Pause' }).press('Enter');
  await expect(search).toContainText('paused');
  const tried = async () => /(\d+) states/.exec((await search.textContent())!)![1];
  // What was under way when it was held back may still be told; then nothing more is.
  await expect
    .poll(async () => {
      const held = await tried();
      await page.waitForTimeout(700);
      return (await tried()) === held;
    })
    .toBe(true);
  expect(await drawn(search.locator('path.trail'))).toBeGreaterThan(50);
  await expect(plot.getByText('S21 best so far').first()).toBeVisible();
  await expectAccessible(page);
  await search.getByRole('button', { name: 'Go on' }).press('Enter');
  await search.getByRole('button', { name: 'Enough' }).press('Enter');
  await nearer.getByRole('button', { name: 'Leave it' }).press('Enter');

  // Without the ends the limits are met: kept as an attempt first, then taken, and one step back.
  await strip.getByRole('button', { name: /^range of s2/ }).press('Enter');
  await range.getByRole('button', { name: 'around where it is' }).press('Enter');
  await expect(range).toHaveCount(0);
  for (const then of ['Keep as an attempt', 'Take it']) {
    await meet.press('Enter');
    const met = page.getByRole('dialog', { name: 'The limits are met' });
    await met.getByRole('button', { name: then }).press('Enter');
    await expect(met).toHaveCount(0);
  }
  await expect(strip.getByRole('button', { name: '4 attempts' })).toBeVisible();
  await expect(plot.getByText(/limits kept/)).toBeVisible();
  await page.getByRole('button', { name: 'undo' }).press('Enter');
  await expect(plot.getByText(/limits missed by/)).toBeVisible();
});
