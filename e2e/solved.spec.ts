import type { Page } from '@playwright/test';
import {
  choose,
  drawn,
  expect,
  expectAccessible,
  levels,
  nav,
  openAt,
  openDemo,
  saved,
  test,
} from './fixtures';

const centre = async (page: Page, level: string): Promise<number> =>
  Number(
    /([\d.]+)\u2009GHz/.exec(await levels(page).locator(`[data-level=${level}]`).innerText())?.[1] ?? NaN,
  );
const solve = (page: Page) => levels(page).getByRole('button', { name: /^(Solve|Go on)/ });
const details = (page: Page) => levels(page).getByRole('button', { name: /^the solved level/ });
/** Shares of the copper pane's pixels that are not as empty as its corner. */
const painted = (page: Page, name: string): Promise<number> =>
  page.getByRole('img', { name }).evaluate((canvas: HTMLCanvasElement) => {
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
    let count = 0;
    for (let i = 3; i < data.length; i += 4) if (data[i] > 0) count++;
    return count / (data.length / 4);
  });

test('the copper is solved, goes stale, is solved again, and a solved state is never solved twice', async ({
  page,
}) => {
  // The demo comes with what was solved of it: a newcomer sees three levels without waiting.
  await openAt(page, '/p/ditchwater/design/hybrid');
  await expect.poll(() => centre(page, 'solved')).toBeGreaterThan(10);
  await expect(levels(page)).toContainText(/(below|above) modelled|centre stays/);
  expect(Math.abs((await centre(page, 'solved')) / (await centre(page, 'modelled')) - 1)).toBeLessThan(0.02);
  await expect(solve(page)).toHaveCount(0);

  // Another is solved when it is asked for. What it costs is said before it runs, at three accuracies.
  await page.goto('/p/ditchwater/design/lo-match');
  await expect(solve(page)).toContainText(/about \d/);
  await details(page).click();
  const panel = page.getByRole('dialog', { name: 'the solved level' });
  for (const accuracy of ['draft', 'normal', 'fine'])
    await expect(
      panel.getByRole('radio', { name: new RegExp(`${accuracy}.*unknowns.*MB.*about`) }),
    ).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+Enter');
  await expect.poll(() => centre(page, 'solved'), { timeout: 20_000 }).toBeGreaterThan(10);
  await expect(levels(page)).toContainText(/(below|above) modelled|centre stays/, { timeout: 20_000 });
  // It is drawn heavier than any other curve, and the markers read it.
  const heavy = page
    .getByRole('region', { name: 'Match at port 1' })
    .locator('path[fill=none][stroke-width="3"]');
  expect(await drawn(heavy)).toBeGreaterThan(200);
  await expect(page.getByRole('button', { name: 'curve that the markers read' })).toContainText('solved');

  // The copper changes: the curve stays, is of then, and what changed is said.
  const zl = page.getByRole('textbox', { name: 'value zl', exact: true });
  await zl.fill('110 ohm');
  await zl.press('Enter');
  await expect(levels(page)).toContainText('solved before zl: 120 ohm \u2192 110 ohm');
  await expect(heavy).toHaveAttribute('stroke-opacity', '0.35');
  await expect(page.getByRole('button', { name: 'curve that the markers read' })).toContainText('modelled');
  const before = await centre(page, 'solved');
  await expect(solve(page)).toHaveText('Solve again');
  await page.keyboard.press('Control+Enter');
  await expect(solve(page)).toHaveCount(0, { timeout: 20_000 });
  await expect(levels(page).getByRole('button', { name: /^solving/ })).toHaveCount(0, { timeout: 20_000 });
  expect(await centre(page, 'solved')).not.toBe(before);
  await expect(levels(page)).not.toContainText('solved before');

  // Back to what was solved: it is there without solving, after a reload as well.
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect.poll(() => centre(page, 'solved')).toBe(before);
  await expect(solve(page)).toHaveCount(0);
  await page.reload();
  await expect.poll(() => centre(page, 'solved')).toBe(before);

  // It goes out like any other level.
  const download = page.waitForEvent('download');
  await choose(page, page.getByRole('button', { name: /^Export/ }), 'Touchstone, solved');
  const { text } = await saved(download);
  expect(text).toContain('level solved');
  expect(text.split('\n').filter((l) => /^\d/.test(l)).length).toBe(401);
});

test('a solution is stopped, survives a reload and is gone on with', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/bias-feed');
  await details(page).click();
  await page.getByRole('radio', { name: /draft/ }).press('Space');
  await page.keyboard.press('Escape');
  await solve(page).click();
  const stop = levels(page).getByRole('button', { name: /^solving/ });
  await expect(levels(page)).toContainText(/solving, \d+ frequencies/, { timeout: 60_000 });
  await stop.click();
  await expect(stop).toHaveCount(0);
  await expect(solve(page)).toHaveText('Go on');
  await expect(levels(page)).toContainText('solved in part');
  await page.reload();
  await expect(solve(page)).toHaveText('Go on');
  await solve(page).click();
  // Whoever of the two dies in the middle: it goes on with what was solved by then.
  await expect(levels(page)).toContainText(/solving, \d+ frequencies/, { timeout: 60_000 });
  const workers = page.workers().length;
  expect(workers).toBeGreaterThan(1);
  await page.workers()[workers - 1].evaluate(() => self.close());
  await expect(solve(page)).toHaveCount(0, { timeout: 60_000 });
  await expect(stop).toHaveCount(0, { timeout: 60_000 });
  await details(page).click();
  await expect(page.getByRole('dialog', { name: 'the solved level' })).toContainText(
    /solved at\s*\d+ frequencies/,
  );
});

test('mesh and current lie over the copper', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/lo-match');
  await page.getByRole('toolbar', { name: 'what lies over the copper' }).getByText('mesh').click();
  await expect(page.getByText(/\d+ cells at normal accuracy, \d+ unknowns/)).toBeVisible();
  expect(await painted(page, 'mesh on the copper')).toBeGreaterThan(0.005);
  await page.getByRole('group', { name: 'copper, to scale' }).focus();
  await page.keyboard.press('l');
  const current = page.getByRole('img', { name: 'current on the copper' });
  const most = async () => Number(await current.getAttribute('data-most'));
  await expect.poll(most, { timeout: 20_000 }).toBeGreaterThan(1);
  const first = await most();
  expect(await painted(page, 'current on the copper')).toBeGreaterThan(0.1);
  await expectAccessible(page);
  const f = page.getByRole('textbox', { name: 'frequency of the current' });
  await f.fill('12 GHz');
  await f.press('Enter');
  await expect
    .poll(async () => (await most()) > 0 && (await most()) !== first, { timeout: 20_000 })
    .toBe(true);
  await f.fill('nonsense');
  await expect(page.getByRole('group', { name: /^current/ })).toContainText(/nonsense/);
  await f.fill('f0');
  await expect.poll(most, { timeout: 20_000 }).toBeCloseTo(first, 3);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'picture of the current' }).click();
  await page.getByRole('menuitem', { name: 'SVG' }).click();
  expect((await saved(download)).text.match(/<polygon/g)!.length).toBeGreaterThan(20);
});

test('free copper, from four typed points to S-parameters', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Project');
  await page.getByRole('button', { name: 'Empty design' }).click();
  await page.getByRole('button', { name: 'Set the first port' }).click();
  await choose(page, page.getByRole('button', { name: 'grow at port 1', exact: true }), /^free copper/);
  const corners = page.getByRole('textbox', { name: 'free copper: corners' });
  // What cannot be is said where it was typed, and stays there to be put right.
  await corners.fill('0 mm, -0.3 mm\n6 mm');
  await expect(page.getByRole('alert')).toHaveText('Line 2: a corner is written as x, y.');
  await corners.fill('0 mm, -0.3 mm\n0 mm, -0.3 mm\n6 mm, 0.3 mm\n0 mm, 0.3 mm');
  await expect(page.getByRole('alert')).toHaveText('Corner 2, x: is where the corner before it is');
  await corners.fill('0 mm, -0.3 mm\n6 mm, -0.3 mm\n6 mm, 0.3 mm\n0 mm, 0.3 mm');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expectAccessible(page);
  await choose(page, page.getByRole('button', { name: 'grow at free copper, pin 2', exact: true }), /^port/);
  await page.keyboard.press('Control+Enter');
  const curves = page
    .getByRole('region', { name: 'From port 1' })
    .locator('path[fill=none][stroke-width="3"]');
  await expect(curves).toHaveCount(2, { timeout: 30_000 });
  expect(await drawn(curves.first())).toBeGreaterThan(200);
  // 76 ohm between 50 ohm: half a wave at 16 GHz is no mismatch, a quarter at f0 is the greatest, (1 - q)/(1 + q) with q = (76/50)^2.
  await expect(levels(page).getByRole('button', { name: /^solving/ })).toHaveCount(0, { timeout: 30_000 });
  const row = page.getByRole('region', { name: 'Markers' }).getByRole('row').nth(1);
  const match = async () =>
    Number(/(\u2212[\d.]+)/.exec(await row.innerText())?.[1].replace('\u2212', '-') ?? NaN);
  await expect.poll(match).toBeGreaterThan(-9.5);
  expect(await match()).toBeLessThan(-7.5);

  // A corner is moved by hand and what was solved is of before; the copper is undone with it.
  await page.getByRole('button', { name: 'free copper', exact: true }).first().press('Enter');
  const grip = page.getByRole('slider', { name: 'corner 2 of free copper' });
  await grip.press('ArrowRight');
  await expect(corners).toHaveValue(/6\.1 mm, -0\.3 mm/);
  await expect(levels(page)).toContainText(/solved before/);
  const box = (await grip.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 60, box.y + box.height / 2 + 3, { steps: 5 });
  await page.mouse.up();
  await expect(corners).not.toHaveValue(/6\.1 mm, -0\.3 mm/);
  await page
    .getByRole('button', { name: 'side 1 of free copper: set a corner into its middle' })
    .press('Enter');
  await expect(corners).toHaveValue(/^([^\n]+\n){4}[^\n]+$/);
  await page.getByRole('slider', { name: 'corner 2 of free copper' }).press('Delete');
  while (!(await corners.inputValue()).includes('\n6 mm, -0.3 mm'))
    await page.getByRole('button', { name: /^Undo: (move|set|take)/ }).click();
  await expect(levels(page)).not.toContainText(/solved before/);

  // Copper from a file takes its place, with pins at its ends; of several layers one is chosen.
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'from a file' }).click();
  const strip = (x: number, layer: string) =>
    `0\nLWPOLYLINE\n8\n${layer}\n90\n4\n70\n1\n10\n0\n20\n0\n10\n${x}\n20\n0\n10\n${x}\n20\n1.2\n10\n0\n20\n1.2\n`;
  await (
    await chooser
  ).setFiles({
    name: 'feed.dxf',
    mimeType: 'image/vnd.dxf',
    buffer: Buffer.from(
      `0\nSECTION\n2\nENTITIES\n${strip(8, 'top')}${strip(14, 'spare')}0\nENDSEC\n0\nEOF\n`,
    ),
  });
  await expect(corners).toHaveValue('0 mm, 0 mm\n8 mm, 0 mm\n8 mm, 1.2 mm\n0 mm, 1.2 mm');
  await expect(page.getByRole('textbox', { name: 'free copper: sides with pins' })).toHaveValue('2, 4');
  await expect(page.getByRole('status', { name: 'what was read' })).toContainText('taken as millimetres');
  await choose(page, page.getByRole('button', { name: /layer of the file/ }), /^layer spare/);
  await expect(corners).toHaveValue(/^0 mm, 0 mm\n14 mm, 0 mm/);
  await expectAccessible(page);
});

test('side walls stand around the copper, and their resonances on the axis', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/lo-match');
  const around = page.getByRole('group', { name: 'Surroundings' });
  await expect(around).toContainText('Open above and to the sides');
  await around.getByRole('button', { name: 'put walls around' }).press('Enter');
  expect(await drawn(page.locator('rect.walls'))).toBeGreaterThan(400);
  await expect(around).toContainText('Without a lid it does not resonate');
  const back = page.getByRole('textbox', { name: 'distance of the wall, back' });
  await back.fill('-1 mm');
  await expect(page.getByRole('region', { name: 'Review' })).toContainText('The wall, back');
  await back.fill('18 mm');
  await page.getByRole('textbox', { name: 'distance of the wall, right' }).fill('20 mm');
  await page.getByRole('region', { name: 'Board' }).getByRole('button', { name: 'change' }).press('Enter');
  const lid = page.getByRole('textbox', { name: /^Lid/ });
  await lid.fill('4 mm');
  await lid.press('Enter');
  const cut = around.getByRole('img', { name: /lid 4.mm above it, walls/ });
  await expect(cut.locator('rect.strip').first()).toBeVisible();
  expect(await drawn(cut.locator('path.metal'))).toBeGreaterThan(500);
  await expect(around).toContainText(/The box resonates at [\d.]+.GHz/);
  const ticks = page.getByRole('region', { name: 'Match at port 1' }).locator('g.tick path');
  await expect.poll(() => ticks.count()).toBeGreaterThan(0);
  await expect(page.getByRole('region', { name: 'Review' })).toContainText('The enclosure resonates at');
  await expectAccessible(page);
  await around.getByRole('button', { name: 'take away' }).press('Enter');
  await expect(page.locator('rect.walls')).toHaveCount(0);
  await expect(ticks).toHaveCount(0);
});
