import type { Page } from '@playwright/test';
import { expect, openAt, test } from './fixtures';

/** |S11| at the first marker, dB, once it stands still. */
async function match(page: Page): Promise<number> {
  const cell = page.getByRole('region', { name: 'Markers' }).locator('tbody tr').first().locator('td').nth(1);
  let last = '';
  await expect(async () => {
    const text = (await cell.textContent()) ?? '';
    const still = text === last && text !== '\u2013';
    last = text;
    expect(still).toBe(true);
  }).toPass({ intervals: [150] });
  return last.startsWith('below') ? -200 : Number(last.replace('\u2212', '-'));
}

async function detune(page: Page): Promise<void> {
  await page.getByLabel('value plane', { exact: true }).fill('30 deg');
  await page.getByLabel('value stub', { exact: true }).fill('60 deg');
  await expect.poll(() => match(page)).toBeGreaterThan(-12);
}

test('a load is matched by dragging arcs on the Smith chart alone', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  await detune(page);
  const chart = page.getByRole('application', { name: 'reflection on the Smith chart' });
  const handle = (name: string) => chart.getByRole('slider', { name, exact: true });
  const middle = async (name: string) => {
    const box = (await handle(name).boundingBox())!;
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const rim = (await chart.locator('circle').nth(1).boundingBox())!;
  const centre = { x: rim.x + rim.width / 2, y: rim.y + rim.height / 2 };
  const drag = async (name: string, to: { x: number; y: number }) => {
    const from = await middle(name);
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    for (let i = 1; i <= 4; i++)
      await page.mouse.move(from.x + ((to.x - from.x) * i) / 4, from.y + ((to.y - from.y) * i) / 4);
    await page.mouse.up();
    // The next one takes the handle where it stands then.
    await settled();
  };
  /** The match when the page has followed: the same twice. */
  const settled = async () => {
    for (let last = NaN; ;) {
      const now = await match(page);
      if (now === last) return now;
      last = now;
      await page.waitForTimeout(150);
    }
  };
  // The stub goes as near to the centre as it can; then the line a little to the side on which that is nearer.
  const attempt = async () => {
    for (let i = 0; i < 3; i++) await drag('arc of stub', centre);
    return settled();
  };
  let best = await attempt();
  let side = 1;
  let reach = 14;
  for (let i = 0; i < 24 && best > -20; i++) {
    const at = await middle('arc of line to the load');
    // Along the line's own circle around the centre.
    const [dx, dy] = [at.x - centre.x, at.y - centre.y];
    const size = Math.hypot(dx, dy);
    await drag('arc of line to the load', {
      x: at.x - (side * reach * dy) / size,
      y: at.y + (side * reach * dx) / size,
    });
    const next = await attempt();
    if (next > best) {
      side = -side;
      reach *= 0.7;
    }
    best = next;
  }
  expect(best).toBeLessThan(-20);
  // Copper and ledger followed, and a drag is one step back.
  await expect(page.getByLabel('value stub', { exact: true })).not.toHaveValue('60 deg');
  // The last drag may have moved the match by less than is shown; what it held is back all the same.
  const held = () =>
    Promise.all(['stub', 'plane'].map((v) => page.getByLabel(`value ${v}`, { exact: true }).inputValue()));
  const there = await held();
  await page.keyboard.press('Control+z');
  await expect.poll(held).not.toEqual(there);
});

test('the tuning strip matches by keyboard alone; attempts are kept, laid beside and blended', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  await detune(page);
  const knob = (name: RegExp) => page.getByRole('slider', { name });
  const plane = knob(/^tune plane/);
  const stub = knob(/^tune stub/);
  await stub.focus();
  let best = await match(page);
  // One value after the other, each as long as it helps, with ever finer steps.
  for (const key of ['Alt+Arrow', 'Arrow', 'Shift+Arrow'])
    for (let round = 0; round < 4 && best > -24; round++)
      for (const slider of [stub, plane])
        for (const direction of ['Right', 'Left']) {
          await slider.focus();
          for (let i = 0; i < 12; i++) {
            await page.keyboard.press(`${key}${direction}`);
            const next = await match(page);
            if (next < best) {
              best = next;
              continue;
            }
            await page.keyboard.press(`${key}${direction === 'Right' ? 'Left' : 'Right'}`);
            break;
          }
        }
  expect(best).toBeLessThan(-20);
  await expect(stub).toHaveAttribute('aria-valuetext', /°$/);
  const tunedText = await page.getByLabel('value stub', { exact: true }).inputValue();

  const strip = page.getByRole('region', { name: 'Tuning strip' });
  await strip.getByRole('button', { name: 'keep this state' }).click();
  await expect(strip.getByRole('button', { name: '3 attempts' })).toBeVisible();
  await stub.focus();
  await page.keyboard.press('Home');
  await expect(page.getByLabel('value stub', { exact: true })).not.toHaveValue(tunedText);
  await strip.getByRole('button', { name: 'back to the start' }).click();
  await expect(page.getByLabel('value plane', { exact: true })).toHaveValue(/stubplane/);

  await strip.getByRole('button', { name: '3 attempts' }).click();
  const list = page.getByRole('dialog', { name: 'Attempts' });
  await list.getByRole('radio', { name: 'choose attempt 3' }).check();
  await expect(list.getByRole('list', { name: 'differences' })).toContainText(/stub: .* → shortstub/);
  await expect(
    list.getByRole('table', { name: 'numbers' }).getByRole('row', { name: /^attempt 3/ }),
  ).toContainText('GHz');
  await list.getByRole('checkbox', { name: 'draw attempt 3 beside' }).check();
  await expect(page.locator('svg text').filter({ hasText: 'attempt 3' }).first()).toBeVisible();
  const blend = list.getByRole('slider', { name: 'blend to attempt 3' });
  await blend.focus();
  await page.keyboard.press('End');
  await expect(page.getByLabel('value stub', { exact: true })).toHaveValue(tunedText);
  await page.keyboard.press('Home');
  await expect(page.getByLabel('value plane', { exact: true })).toHaveValue(/stubplane/);
  await list.getByRole('button', { name: 'forget attempt 3' }).click();
  await expect(strip.getByRole('button', { name: '2 attempts' })).toBeVisible();
});

test('a value that moves nothing says why before it is touched', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  await page.getByRole('button', { name: 'Add a named value' }).click();
  const strip = page.getByRole('region', { name: 'Tuning strip' });
  await strip.getByRole('button', { name: 'put a value on the tuning strip', exact: true }).click();
  await page.getByRole('menuitem', { name: /^v1/ }).click();
  await expect(strip.getByText('moves nothing: no piece uses it')).toBeVisible();
});

test('a forbidden double stub is explained and resolved; ways to a match are weighed and laid over', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/recipes/double-stub');
  await page.getByLabel('Load', { exact: true }).fill('10 ohm');
  await page.getByLabel('Spacing', { exact: true }).fill('90 deg');
  await expect(
    page.getByText(/forbidden region: its conductance at the first stub is 5 times/).first(),
  ).toBeVisible();
  await expect(page.getByRole('figure', { name: 'forbidden region' })).toContainText('inside');
  await expect(page.getByRole('button', { name: 'Make the design' })).toBeDisabled();
  await page.getByLabel('Offset', { exact: true }).fill('30 deg');
  await expect(page.getByRole('figure', { name: 'forbidden region' })).toContainText('outside');

  const ways = page.getByRole('region', { name: 'Candidates' });
  await ways.getByRole('checkbox', { name: /one quarter wave/ }).check();
  await expect(page.locator('svg text').filter({ hasText: 'one quarter wave' })).toBeVisible();
  await ways.getByRole('button', { name: 'rank by area' }).click();
  const areas = (await ways.locator('tbody tr td:nth-child(4)').allTextContents()).map(parseFloat);
  expect(areas.length).toBeGreaterThan(5);
  expect(areas).toEqual([...areas].sort((a, b) => a - b));
  await page.getByLabel('return loss judged').fill('20 mm');
  await expect(ways.getByText(/needs a level in decibels/)).toBeVisible();
  await page.getByLabel('return loss judged').fill('15 dB');

  // A measured one-port as the load, by another recipe taken from the list.
  await ways.getByRole('button', { name: 'shorted stub, near plane' }).click();
  await expect(page.getByRole('heading', { name: 'Single-stub match' })).toBeVisible();
  await expect(page.getByLabel('Load', { exact: true })).toHaveValue('10 ohm');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'or one-port data from a file' }).click();
  const buffer = Buffer.from('# GHz Z RI R 50\n9 0.5 -0.9\n10.55 0.46 -0.82\n12 0.42 -0.7\n');
  await (await chooser).setFiles([{ name: 'diode.s1p', mimeType: 'text/plain', buffer }]);
  await expect(page.getByLabel('Load', { exact: true })).toHaveValue('diode.s1p');
  await page.getByRole('button', { name: 'Make the design' }).click();
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('diode.s1p');
  await expect(page.getByRole('region', { name: 'Markers' }).locator('tbody tr').first()).toContainText(
    'below',
  );
});

test('values are typed into the strip, limits are met by them, and that is one step back', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  const strip = page.getByRole('region', { name: 'Tuning strip' });
  const plane = strip.getByLabel('value of plane, load to stub');
  await plane.fill('30 deg');
  await expect(page.getByLabel('value plane', { exact: true })).toHaveValue('30 deg');
  // What cannot be read is said where it is typed, and nothing is lost.
  await plane.fill('30 mm');
  await expect(strip.getByRole('alert')).toContainText('angle');
  await expect(page.getByLabel('value plane', { exact: true })).toHaveValue('30 deg');
  await plane.press('Escape');
  await expect(page.getByLabel('value plane', { exact: true })).not.toHaveValue('30 deg');
  await plane.fill('30 deg');
  await plane.press('Enter');
  await strip.getByLabel('value of stub, its length').fill('60 deg');
  await expect.poll(() => match(page)).toBeGreaterThan(-12);

  const meet = strip.getByRole('button', { name: 'meet the limits of the plots' });
  await expect(meet).toBeDisabled();
  const plot = page.getByRole('region', { name: 'Match at port 1' });
  await plot.getByRole('button', { name: /Match at port 1/ }).click();
  await page.getByRole('menuitem', { name: 'Limits\u2026' }).click();
  const limits = page.getByRole('dialog', { name: 'Limits' });
  await limits.getByRole('button', { name: 'add a limit' }).click();
  await limits.getByRole('button', { name: 'Done' }).click();
  await expect(plot.getByText(/limits missed by/)).toBeVisible();

  await meet.click();
  const result = page.getByRole('dialog', { name: 'The limits are met' });
  const row = result.getByRole('row', { name: /below \u221220 dB/ });
  await expect(row).toContainText('missed by');
  await expect(row).toContainText('to spare');
  await expect(result.getByText(/Given, and left alone: zl/)).toBeVisible();
  await result.getByRole('button', { name: 'Take it' }).click();
  await expect(plot.getByText(/limits kept/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(plot.getByText(/limits missed by/)).toBeVisible();
  await expect(page.getByLabel('value stub', { exact: true })).toHaveValue('60 deg');
});

test('the Smith chart looks from any pin of the copper, against any reference', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  const plot = page.getByRole('region', { name: 'Smith chart' });
  await expect(plot.getByText('port 1, z/50')).toBeVisible();
  await page.getByRole('button', { name: /line to the load, pin 2 and load/ }).click();
  await page.getByRole('menuitem', { name: 'Look into load from here' }).click();
  await expect(plot.getByText('into load, z/50')).toBeVisible();
  await expect(page.getByRole('img', { name: 'plane of the Smith chart' })).toBeVisible();
  // A constant impedance is one point, and no arcs lead there.
  await expect(plot.getByRole('slider')).toHaveCount(0);

  await plot
    .getByRole('button', { name: /Smith chart/ })
    .first()
    .click();
  await page.getByRole('menuitem', { name: 'Plane and reference\u2026' }).click();
  const dialog = page.getByRole('dialog', { name: 'Plane and reference' });
  await dialog.getByRole('button', { name: 'where the Smith chart looks from' }).click();
  await page.getByRole('option', { name: 'into line to the load, pin 1' }).click();
  const reference = dialog.getByLabel('reference of the Smith chart');
  await reference.fill('3 mm');
  await expect(dialog.getByText(/needs a resistance/)).toBeVisible();
  await reference.fill('z0/2');
  await dialog.getByRole('button', { name: 'Done' }).click();
  await expect(plot.getByText('into line to the load, pin 1, z/25')).toBeVisible();
  await expect(plot.getByRole('slider', { name: 'arc of line to the load' })).toBeVisible();
  await expect(plot.getByRole('slider', { name: 'arc of stub' })).toHaveCount(0);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  await expect(plot.getByText('port 1, z/50')).toBeVisible();
  await expect(plot.getByRole('slider', { name: 'arc of stub' })).toBeVisible();
});

test('a section of preferred parts is made, dragged by its arcs, and looked at with its loss', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/recipes/l-section');
  const theory = page.getByText(/Rounded to E24, the return loss/);
  await expect(theory).toHaveCount(0);
  await page.getByRole('button', { name: 'Exact Values' }).click();
  await page.getByRole('option', { name: 'E24' }).click();
  await expect(theory).toBeVisible();
  // What cannot be matched this way round is said at its field, and the other way is offered there.
  await page.getByLabel('Load', { exact: true }).fill('10 ohm');
  await expect(page.getByText(/put the part at the load in series/).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make the design' })).toBeDisabled();
  await page.getByLabel('Load', { exact: true }).fill('200-100j ohm');
  await page.getByLabel('Pads', { exact: true }).fill('0 mm');
  await page.getByRole('button', { name: 'Make the design' }).click();

  const chart = page.getByRole('application', { name: 'reflection on the Smith chart' });
  const arc = chart.getByRole('slider', { name: 'arc of shunt capacitor' });
  const before = await page.getByLabel('value c1', { exact: true }).inputValue();
  expect(before).toContain('preferred(');
  await arc.focus();
  await page.keyboard.press('ArrowRight');
  // A larger capacitor across is a longer arc; the number takes the expression's place.
  await expect(page.getByLabel('value c1', { exact: true })).toHaveValue(/^\d[\d.e-]* pF$/);
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('value c1', { exact: true })).toHaveValue(before);
  await expect(page.getByText('Nothing to question')).toBeVisible();
});
