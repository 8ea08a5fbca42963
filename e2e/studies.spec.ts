import { unzipSync } from 'fflate';
import { choose, drawn, expect, expectAccessible, levels, nav, openAt, saved, test } from './fixtures';

test('a family is taken over a value, read off, taken over two, carried away, and one of it becomes the design', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/design/hybrid');
  await nav(page, 'Studies');
  const members = page.getByRole('table', { name: 'members' });
  await expect(members.getByRole('row')).toHaveCount(6);
  const curves = page.getByRole('application', { name: /of every member over frequency/ });
  const paths = curves.locator('path[fill=none]');
  await expect(paths).toHaveCount(5);
  for (let i = 0; i < 5; i++) expect(await drawn(paths.nth(i))).toBeGreaterThan(300);
  // Light to dark as the value grows.
  const strengths = await paths.evaluateAll((all) =>
    all.map((p) => Number(p.getAttribute('stroke-opacity'))),
  );
  expect(strengths).toEqual([...strengths].sort((a, b) => a - b));
  expect(strengths[0]).toBeLessThan(0.5 * strengths[4]);
  const over = page.getByRole('application', { name: /at the design frequency over/ });
  expect(await drawn(over.locator('path[fill=none]'))).toBeGreaterThan(300);
  await expectAccessible(page);

  // What is read off is chosen: more permittivity under the same copper lowers its centre.
  await choose(page, page.getByRole('button', { name: /what is read off/ }), 'frequency of the least');
  const read = async () =>
    (await members.getByRole('row').allInnerTexts())
      .slice(1)
      .map((t) => Number(/([\d.]+)\s*GHz/.exec(t)?.[1]));
  await expect.poll(async () => (await read())[0]).toBeGreaterThan(10.6);
  const centres = await read();
  expect(centres).toEqual([...centres].sort((a, b) => b - a));

  // A wrong entry is told at its field, and what there was stays until it is right.
  const field = page.getByLabel('values of the first value');
  await field.fill('2.85 .. 3.03');
  await expect(page.getByText('needs START .. STOP : COUNT').first()).toBeVisible();
  await expect(field).toHaveAttribute('aria-invalid', 'true');
  await field.fill('2.8, 3.1');
  await expect(members.getByRole('row')).toHaveCount(3);
  await field.blur();
  await page.keyboard.press('Control+z');
  await expect(field).toHaveValue('2.85 .. 3.03 : 5');

  await page.getByRole('button', { name: 'over a second value' }).click();
  await choose(page, page.getByRole('button', { name: /second value/ }).first(), 'z0, system');
  await page.getByLabel('values of the second value').fill('46 ohm .. 54 ohm : 3');
  await expect(members.getByRole('row')).toHaveCount(16);
  const map = page.getByRole('img', { name: /^map over/ });
  await expect(map.locator('.cell rect')).toHaveCount(15);
  const fills = await map
    .locator('.cell rect')
    .evaluateAll((all) => all.map((r) => r.getAttribute('fill-opacity')));
  expect(new Set(fills).size).toBeGreaterThan(5);

  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'all members as Touchstone files' }).click();
  const { name, bytes } = await saved(download);
  expect(name).toBe('quadrature-hybrid-family.zip');
  const files = unzipSync(new Uint8Array(bytes));
  expect(Object.keys(files).length).toBe(16);
  const text = (file: string) => new TextDecoder().decode(files[file]);
  expect(text('index.csv').split('\r\n')[1]).toBe('1,2.85,46,001.s4p');
  expect(text('015.s4p')).toMatch(/^# Hz S RI R 54/m);

  await page.getByRole('button', { name: /^make 2\.85, 54.* the design$/ }).click();
  await nav(page, 'Design');
  await expect(page.getByLabel('value z0')).toHaveValue('54 ohm');
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('value z0')).toHaveValue('50 ohm');
});

test('two ports of a hybrid are driven at once, over phase and level', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/hybrid');
  await nav(page, 'Studies');
  await choose(
    page,
    page.getByRole('button', { name: /first value/ }).first(),
    'phase into port 3 against port 2',
  );
  await expect(page.getByLabel('values of the first value')).toHaveValue('-180 deg .. 180 deg : 13');
  const members = page.getByRole('table', { name: 'members' });
  await expect(members.getByRole('row')).toHaveCount(14);
  await expect(page.getByRole('button', { name: /picture of the family/ })).toContainText(
    'Power out of the ports',
  );
  const curves = page.getByRole('application', { name: /^out of port 1 of every member/ });
  await expect(curves.locator('path[fill=none]')).toHaveCount(13);
  // In quadrature all comes out of port 1 or of port 4: next to nothing is lost, or next to nothing comes.
  const read = async () =>
    (await members.getByRole('row').allInnerTexts())
      .slice(1)
      .map((t) => Number(/(\u2212?[\d.]+)\s*dB/.exec(t)?.[1].replace('\u2212', '-')));
  await expect.poll(async () => Math.max(...(await read()))).toBeGreaterThan(-0.5);
  expect(Math.min(...(await read()))).toBeLessThan(-15);
  // No S-parameters change with it, and no member is another design.
  await expect(page.getByRole('button', { name: 'all members as Touchstone files' })).toBeDisabled();
  await expect(page.getByRole('button', { name: /^make .* the design$/ }).first()).toBeDisabled();
  await page.getByRole('button', { name: 'over a second value' }).click();
  await choose(
    page,
    page.getByRole('button', { name: /second value/ }).first(),
    'level into port 3 against port 2',
  );
  await expect(page.getByRole('img', { name: /^map over/ }).locator('.cell rect')).toHaveCount(65);
  await expectAccessible(page);
});

test('a design is sampled as it comes out of the shop, until its yield is known', async ({ page }) => {
  test.slow();
  await openAt(page, '/p/ditchwater/design/stop-filter/studies');
  await page.getByRole('radio', { name: 'Family' }).press('ArrowRight');
  await expect(page).toHaveURL(/studies\/spread$/);
  await expect(page.getByText('No samples yet')).toBeVisible();
  await choose(page, page.getByRole('button', { name: /until the yield is known/ }), '\u00B15 %');
  const er = page.getByLabel('tolerance of \u03B5r');
  await expect(er).toHaveValue('1.5%');
  await er.fill('4%');
  await page.getByRole('button', { name: 'Sample', exact: true }).click();
  const outcome = page.getByRole('region', { name: 'Yield' });
  await expect(outcome).toContainText('What costs the most', { timeout: 60_000, ignoreCase: true });
  const share = Number(/([\d.]+) %/.exec(await outcome.innerText())?.[1]);
  expect(share).toBeGreaterThan(30);
  expect(share).toBeLessThan(100);
  // Of a permittivity that spreads so much, permittivity.
  await expect(outcome.getByRole('listitem').first()).toContainText('\u03B5r');
  const bands = page.getByRole('application', { name: /of all samples/ }).locator('path.between');
  await expect(bands).toHaveCount(4);
  for (let i = 0; i < 4; i++) expect(await drawn(bands.nth(i))).toBeGreaterThan(300);
  const bins = page.getByRole('img', { name: /how often: worst miss/ }).locator('.bin');
  const heights = await bins.evaluateAll((all) => all.map((b) => Number(b.getAttribute('height'))));
  expect(heights.filter((h) => h > 0).length).toBeGreaterThan(8);
  await choose(page, page.getByRole('button', { name: /what is counted/ }), 'S21 at the design frequency');
  await expect(
    page
      .getByRole('img', { name: /how often: S21/ })
      .locator('.bin')
      .first(),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'worst corner' }).click();
  await expect(page.getByText(/^The worst corner misses a limit by/)).toBeVisible({ timeout: 30_000 });

  // What was sampled belongs to what was sampled.
  await er.fill('5');
  await expect(outcome).toContainText('of an earlier state', { ignoreCase: true });
  await page.getByRole('button', { name: 'Sample again' }).click();
  await expect(page.getByText('spreads by as much as it is')).toBeVisible();
  await expect(er).toHaveAttribute('aria-invalid', 'true');
  await er.blur();
  await page.keyboard.press('Control+z');
  await expect(er).not.toHaveValue('5');
  await page.getByRole('button', { name: /^Sample/ }).click();
  await page.getByRole('button', { name: /stop$/ }).click();
  await expect(page.getByRole('button', { name: /^Sample/ })).toBeVisible();
});

test('copper is solved, corrected and solved again until the solved response is back', async ({ page }) => {
  test.slow();
  await openAt(page, '/p/ditchwater/design/hybrid');
  await levels(page)
    .getByRole('button', { name: /^the solved level/ })
    .click();
  const panel = page.getByRole('dialog', { name: 'the solved level' });
  // Which piece makes the difference is told piece by piece, and each is found from there.
  await panel.getByText('draft').click();
  await panel.getByRole('button', { name: 'which piece makes the difference?' }).click();
  const ranking = page.getByRole('region', { name: 'Which piece makes the difference' });
  await expect(ranking.getByText(/^The most is changed by tee at port/)).toBeVisible({ timeout: 60_000 });
  await expect(ranking.getByRole('row')).toHaveCount(5, { timeout: 60_000 });
  await expect(ranking.getByRole('button', { name: 'close' })).toBeVisible({ timeout: 60_000 });
  await expectAccessible(page);
  await ranking.getByRole('button', { name: 'tee at port 2', exact: true }).click();
  await expect(
    page.getByRole('button', { name: 'tee at port 2', exact: true, pressed: true }).first(),
  ).toBeVisible();
  await ranking.getByRole('button', { name: 'close' }).click();
  await expect(ranking).toBeHidden();
  await levels(page)
    .getByRole('button', { name: /^the solved level/ })
    .click();
  await panel.getByRole('button', { name: 'back to the ideal' }).click();
  const under = page.getByRole('region', { name: 'Retuning to the solved response' });
  await expect(under).toBeVisible();
  const result = page.getByRole('dialog', { name: 'Retuned to the solved response' });
  await expect(result).toBeVisible({ timeout: 60_000 });
  const rows = result.getByRole('table', { name: 'solutions' }).getByRole('row');
  const numbers = (await rows.allInnerTexts())
    .slice(1)
    .map((t) => Number(/([\u2212\d.]+)\s*dB\s*[\u2212\d.]+\s*dB\s*$/.exec(t)?.[1].replace('\u2212', '-')));
  expect(numbers.length).toBeGreaterThan(1);
  expect(numbers.length).toBeLessThanOrEqual(4);
  expect(Math.min(...numbers)).toBeLessThan(numbers[0] - 4);
  await expectAccessible(page);
  await result.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByRole('button', { name: 'Undo: retune to solved' })).toBeEnabled();
  // Where there is nothing to keep it says so.
  await page.goto('/p/ditchwater/design/lo-match');
  await levels(page)
    .getByRole('button', { name: /^the solved level/ })
    .click();
  await panel.getByRole('button', { name: 'into the limits' }).click();
  await expect(page.getByText(/Retuning by solving is not possible: no plot has limits/)).toBeVisible();
});

test('a piece is solved over its sizes, stands on that, and comes back with undo and from another project', async ({
  page,
}) => {
  test.setTimeout(200_000);
  await openAt(page, '/p/ditchwater/design/hybrid');
  const read = () => levels(page).locator('[data-level=modelled]').innerText();
  await expect.poll(read).toMatch(/GHz/);
  await page.getByRole('button', { name: /^tee at port 1, .*in the ledger/ }).click();
  await page.getByRole('button', { name: /stands on solved data/ }).click();
  const panel = page.getByRole('region', { name: 'Pieces solved over their sizes' });
  // The demo's tees stand on data already; without it they are what tables say.
  const standing = await read();
  await expect(panel.getByText(/14 states, normal, S within [\d.]+; in its ranges/)).toBeVisible();
  await panel.getByRole('button', { name: 'take tee at port 1 and 3 more off' }).click();
  await expect.poll(read).not.toBe(standing);
  await expect(page.getByRole('button', { name: /solve it over its sizes/ })).toBeVisible();
  const solve = panel.getByRole('button', { name: 'Solve', exact: true });
  const field = (name: string) => panel.getByRole('textbox', { name });
  await expectAccessible(page);
  // Both ends or none, and the lower one first.
  await field('arm 1, from').fill('');
  await expect(panel.getByText('needs both ends, or none')).toBeVisible();
  await expect(solve).toBeDisabled();
  await field('arm 1, to').fill('');
  for (const end of ['from', 'to']) await field(`arm 2, ${end}`).fill('');
  await field('side arm, from').fill('1.8 mm');
  await field('side arm, to').fill('1.3 mm');
  await expect(panel.getByText('the lower end comes first')).toBeVisible();
  await field('side arm, from').fill('1.5 mm');
  await field('side arm, to').fill('1.66 mm');
  await panel.getByRole('radio', { name: 'draft' }).click();
  await expect(solve).toBeEnabled();
  const before = await read();
  await solve.click();
  await expect(panel.getByText(/Solved [1-9] of at most \d+ states/)).toBeVisible({ timeout: 60_000 });
  await expect(panel.getByText(/4 of them stand on \d+ solutions now/)).toBeVisible({ timeout: 120_000 });
  await expect.poll(read).not.toBe(before);
  await expect(panel.getByText(/states, draft, S within [\d.]+; in its ranges/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^tee at port 3, .*in the ledger/ })).toContainText('solved');
  const download = page.waitForEvent('download');
  await panel.getByRole('button', { name: 'export tee at port 1, solved' }).click();
  const files = unzipSync((await saved(download)).bytes);
  expect(Object.keys(files).filter((n) => /^\d{3}\.s3p$/.test(n)).length).toBeGreaterThanOrEqual(2);
  expect(new TextDecoder().decode(files['index.csv'])).toMatch(/^member,side arm,file\r?\n1,0\.00158/);

  // One step back, and what was solved is offered again.
  const after = await read();
  await panel.getByRole('button', { name: /^take .* off/ }).click();
  await expect.poll(read).toBe(before);
  await panel.getByRole('button', { name: 'stand on tee at port 1, solved' }).click();
  await expect.poll(read).toBe(after);
  await page.keyboard.press('Control+z');
  await expect.poll(read).toBe(before);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(read).toBe(after);

  // What is carried away in the project's file serves where it is not known any more.
  const carried = page.waitForEvent('download');
  await page.keyboard.press('Control+e');
  const { bytes } = await saved(carried);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect.poll(read).toBe(before);
  await expect(panel.getByRole('button', { name: 'stand on tee at port 1, solved' })).toBeHidden();
  const chooser = page.waitForEvent('filechooser');
  await panel.getByRole('button', { name: 'take what was solved from a project file' }).click();
  await (await chooser).setFiles({ name: 'other.ditch.json', mimeType: 'application/json', buffer: bytes });
  await expect.poll(read).toBe(after);
});

test('a family is solved as a queue that can be stopped, kept, and drawn beside a later one', async ({
  page,
}) => {
  test.setTimeout(150_000);
  await openAt(page, '/p/ditchwater/design/lo-match');
  await nav(page, 'Studies');
  await page.getByRole('button', { name: 'take a family over a value' }).click();
  await choose(page, page.getByRole('button', { name: /first value/ }).first(), 'board height');
  await page.getByLabel('values of the first value').fill('0.48 mm, 0.5 mm, 0.53 mm');
  const members = page.getByRole('table', { name: 'members' });
  await expect(members.getByRole('row')).toHaveCount(4);
  await page.getByRole('button', { name: 'keep this family' }).click();
  const beside = page.getByRole('checkbox', { name: 'draw family 1 beside' });
  await choose(page, page.getByRole('button', { name: /level of the family/ }), 'solved');
  await expect(page.getByText(/^3 of 3 members are to be solved at normal accuracy/)).toBeVisible();
  await expect(members.getByText('not solved yet')).toHaveCount(3);
  await expect(page.getByRole('button', { name: 'all members as Touchstone files' })).toBeDisabled();
  await page.getByRole('button', { name: 'Solve 3 members' }).click();
  await expect(page.getByText(/^Solving 1 of 3, /)).toBeVisible();
  // What is done by then stays; the rest is gone on with.
  await expect(members.getByText('not solved yet')).toHaveCount(2, { timeout: 60_000 });
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByText(/^[12] of 3 members are to be solved/)).toBeVisible();
  const curves = page
    .getByRole('application', { name: /of every member over frequency/ })
    .locator('path[fill=none]');
  await expect.poll(() => curves.count()).toBeGreaterThan(0);
  await page.getByRole('button', { name: /^Solve (it|2 members)$/ }).click();
  await expect(page.getByText('Every member that can be is solved.')).toBeVisible({ timeout: 60_000 });
  await expect(curves).toHaveCount(3);
  for (let i = 0; i < 3; i++) expect(await drawn(curves.nth(i))).toBeGreaterThan(300);
  await expectAccessible(page);
  await beside.check();
  await expect(curves).toHaveCount(6);
  for (let i = 0; i < 6; i++) expect(await drawn(curves.nth(i))).toBeGreaterThan(300);
  // A reload finds all of it.
  await page.reload();
  await choose(page, page.getByRole('button', { name: /level of the family/ }), 'solved');
  await expect(page.getByText('Every member that can be is solved.')).toBeVisible();
  await page.getByRole('button', { name: 'forget family 1' }).click();
  await expect(beside).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(beside).toBeVisible();
});
