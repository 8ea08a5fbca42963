import { answerLate, choose, expect, nav, openDemo, saved, test } from './fixtures';

test('the rectangular chart is zoomed and panned by the pointer and comes back whole', async ({ page }) => {
  await openDemo(page);
  const chart = page.getByRole('application', { name: 'reflection in decibels over frequency' });
  await expect(chart.locator('path').first()).toHaveAttribute('d', /^M/);
  const ticks = async () =>
    (await chart.locator('g > text').allTextContents())
      .filter((t) => /^\d+(\.\d+)?$/.test(t))
      .map(Number)
      .filter((t) => t > 3);
  const whole = await ticks();
  const box = (await chart.boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + 150);
  await page.mouse.wheel(0, -500);
  await expect
    .poll(async () => Math.max(...(await ticks())) - Math.min(...(await ticks())))
    .toBeLessThan(Math.max(...whole) - Math.min(...whole));
  const zoomed = await ticks();
  await page.mouse.down();
  await page.mouse.move(box.x + 320, box.y + 150, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Math.min(...(await ticks()))).toBeLessThan(Math.min(...zoomed));
  await page.mouse.dblclick(box.x + 200, box.y + 150);
  await expect.poll(ticks).toEqual(whole);
});

test('the cursor reads every curve, by pointer and by keyboard', async ({ page }) => {
  await openDemo(page);
  const chart = page.getByRole('application', { name: 'reflection in decibels over frequency' });
  await chart.hover({ position: { x: 120, y: 120 } });
  const reading = page.getByRole('table').filter({ hasText: 'board 3' });
  await expect(reading.getByRole('row')).toHaveCount(3);
  await expect(reading).toContainText('dB');
  await page.mouse.move(5, 400);
  await expect(reading).toBeHidden();
  await chart.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(page.getByText('10.286\u2009GHz')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('10.313\u2009GHz')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(reading).toBeHidden();
});

test('curves are hidden and shown, the Smith chart is exported, markers go', async ({ page }) => {
  await openDemo(page);
  const commands = page.getByRole('button', { name: 'Match at port 1: chart commands' });
  const label = page.locator('text').filter({ hasText: /^board 3/ });
  await choose(page, commands, 'Hide board 3, measured');
  await expect(label).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(label).toBeVisible();
  await choose(page, commands, /Keep the ideal curve/);
  await page.getByLabel('value zl').fill('60 ohm');
  await expect(page.locator('text').filter({ hasText: /^ideal, 120/ })).toBeVisible();
  await choose(page, page.getByRole('button', { name: 'curve that the markers read' }), 'ideal');
  await expect(page.getByRole('region', { name: 'Markers' })).toContainText('below \u2212200');
  await page.getByRole('button', { name: 'Remove marker f0' }).click();
  await expect(page.getByText('No markers. Press M')).toBeVisible();
  const download = page.waitForEvent('download');
  await choose(page, page.getByRole('button', { name: 'Smith chart: chart commands' }), /Export SVG/);
  const svg = await saved(download);
  expect(svg.name).toBe('smith-chart.svg');
  expect(svg.text.match(/<circle/g)!.length).toBeGreaterThan(15);
  // The kept curve stays with the project, and leaves it from the project page.
  await nav(page, 'Project');
  await page.getByRole('button', { name: /^Remove ideal, 120/ }).click();
  await nav(page, 'Design');
  await expect(page.locator('text').filter({ hasText: /^ideal, 120/ })).toBeHidden();
});

test('a width is read and chosen on the curve of impedance over width', async ({ page }) => {
  await answerLate(page, 2500);
  await openDemo(page);
  await nav(page, 'Lines');
  const chart = page.getByRole('application', { name: 'impedance in ohm over width' });
  // A hand that comes before the curve finds nothing to move, and the curve comes whole.
  const early = (await chart.boundingBox())!;
  await page.mouse.move(early.x + early.width / 2, early.y + early.height / 2);
  await page.mouse.wheel(0, -300);
  await page.mouse.down();
  await page.mouse.move(early.x + 60, early.y + early.height / 2, { steps: 3 });
  await page.mouse.up();
  await expect(chart.locator('text').filter({ hasText: /^50 \u03A9 · 1\.27/ })).toBeVisible();
  const mark = page.getByRole('slider', { name: /marker 50/ });
  const box = (await mark.locator('rect').boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 120);
  await page.mouse.down();
  await page.mouse.move(box.x - 60, box.y + 120, { steps: 5 });
  await page.mouse.up();
  const width = page.getByLabel('Width', { exact: true });
  await expect(width).toHaveValue(/^0\.\d+ mm$/);
  await expect(page.getByLabel('Impedance (follows)')).toHaveValue(/^[6-9]\d\.\d+ ohm$/);
  await page.getByRole('slider').focus();
  const before = await width.inputValue();
  await page.keyboard.press('ArrowRight');
  await expect(width).not.toHaveValue(before);
  await page.keyboard.press('Control+z');
  await expect(width).toHaveValue(before);
  const download = page.waitForEvent('download');
  await choose(
    page,
    page.getByRole('button', { name: 'Impedance over width: chart commands' }),
    /Export CSV/,
  );
  const rows = (await saved(download)).text.trim().split('\r\n');
  expect(rows[0]).toBe('width_m,impedance_ohm,effective_permittivity');
  expect(rows).toHaveLength(182);
  // Impedance falls with width in the file as on the curve.
  const impedances = rows.slice(1).map((r) => Number(r.split(',')[1]));
  expect([...impedances].sort((a, b) => b - a)).toEqual(impedances);
});

test('a field is dragged by its name and explains itself', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Lines');
  await page.getByLabel('Roughness').focus();
  await expect(page.getByText('Rms height of the metal')).toBeVisible();
  const name = page.getByText('Permittivity', { exact: true });
  const box = (await name.boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(box.x + 40, box.y + 8, { steps: 6 });
  await page.mouse.up();
  const field = page.getByLabel('Permittivity', { exact: true });
  await expect(field).toHaveValue('3.44');
  await page.getByRole('button', { name: /^Undo: change the board.s permittivity/ }).click();
  await expect(field).toHaveValue('2.94');
});
