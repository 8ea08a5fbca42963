import type { Locator, Page } from '@playwright/test';
import { choose, expect, expectAccessible, levels, nav, openAt, openDemo, saved, test } from './fixtures';

const markers = (page: Page): Locator => page.getByRole('region', { name: 'Markers' }).locator('tbody tr');
const review = (page: Page): Locator => page.getByRole('region', { name: 'Review' });
/** Curves of a chart that say something: paths with many points that are not flat. */
const curvesOf = (chart: Locator): Promise<number> =>
  chart.locator('g[clip-path] path').evaluateAll(
    (paths) =>
      paths.filter((path) => {
        const { width, height } = (path as SVGPathElement).getBBox();
        return (path.getAttribute('d') ?? '').length > 200 && width > 50 && height > 20;
      }).length,
  );

test('two states are compared in curves, with every checkpoint of the demo', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Project');
  for (const name of ['Designs as the recipes', 'Hybrid retuned', 'Detector match tuned']) {
    await page.getByRole('link', { name: new RegExp(`^Compare with ${name}`) }).click();
    const chart = page.getByRole('application', { name: /of both states over frequency/ });
    await expect.poll(async () => (await chart.boundingBox())?.height ?? 0).toBeGreaterThan(300);
    await expect.poll(() => curvesOf(chart)).toBeGreaterThanOrEqual(2);
    await nav(page, 'Project');
  }

  // Where both states were solved, it is the solved level that is compared.
  await page.goto('/p/ditchwater/design/hybrid');
  await expect(levels(page).locator('[data-level=solved]')).toContainText('GHz');
  await page.getByRole('button', { name: 'checkpoint' }).click();
  await expect(page.getByRole('button', { name: 'kept' })).toBeVisible();
  await nav(page, 'Project');
  await page
    .getByRole('link', { name: /^Compare with/ })
    .first()
    .click();
  await choose(page, page.getByRole('button', { name: /design to compare/ }), 'quadrature hybrid');
  await expect(page.getByRole('button', { name: /level that is compared/ })).toContainText('solved');
  await expect(page.getByText('solved; drawn: now')).toBeVisible();
  const chart = page.getByRole('application', { name: /of both states over frequency/ });
  await expect.poll(() => curvesOf(chart)).toBeGreaterThanOrEqual(2);
  await choose(page, page.getByRole('button', { name: /level that is compared/ }), 'ideal');
  await expect(page.getByText('ideal; drawn: now')).toBeVisible();
});

test('markers, match and band are what they are, however coarse the sweep', async ({ page }) => {
  await openDemo(page);
  const read = async () => [
    await levels(page).locator('[data-level]').allInnerTexts(),
    await markers(page).first().locator('td').nth(1).innerText(),
    await markers(page).first().locator('td').nth(2).innerText(),
  ];
  await expect(markers(page).first()).toContainText('below \u2212200');
  const fine = await read();
  await page.getByLabel('sweep points').fill('12');
  await page.getByLabel('sweep stop').fill('1.47*f0');
  await expect.poll(read).toEqual(fine);
  // Numbers of points that cannot be are said at the field, and the curves to be of earlier values.
  for (const wrong of ['0', '1', '401.5', '100001']) {
    await page.getByLabel('sweep points').fill(wrong);
    await expect(page.locator('#sweep-error')).toContainText('whole number from 2 to 20001');
    await expect(page.getByText(/The response waits: Sweep, points/)).toBeVisible();
  }
  await page.getByLabel('sweep points').fill('many');
  await expect(page.locator('#sweep-error')).toContainText('"many" is no number of points');
});

test('what was done is undone after a reload; what is entered stands against Escape', async ({ page }) => {
  await openDemo(page);
  const zl = page.getByLabel('value zl');
  await zl.fill('80 ohm');
  await zl.press('Enter');
  await page.keyboard.type('95 ohm');
  await expect(page.getByText('95 ohm')).toHaveCount(0);
  await zl.press('Escape');
  await expect(zl).toHaveValue('80 ohm');
  await zl.press('Escape');
  await expect(zl).toHaveValue('80 ohm');
  await page.getByRole('button', { name: 'hold the copper' }).click();
  await expect(page.getByText('The copper is held.')).toBeVisible();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByText('The copper is held.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo: hold the copper' }).click();
  await expect(page.getByText('The electrical side is held.')).toBeVisible();
  for (let i = 0; i < 5 && (await zl.inputValue()) !== '120 ohm'; i++) await page.keyboard.press('Control+z');
  await expect(zl).toHaveValue('120 ohm');
  await page.keyboard.press('Control+y');
  await expect(zl).not.toHaveValue('120 ohm');
});

test('names that mean something else are refused in words and never stored', async ({ page }) => {
  await openDemo(page);
  const name = page.getByLabel('name of z1', { exact: true });
  for (const [text, why] of [
    ['mm', /"mm" is a unit/],
    ['length', /the length of the line/],
    ['\u0394z', /cannot be in it/],
    ['my value', /a space cannot be in it/],
    ['2x', /begins with a letter/],
    ['', /needs a name/],
    ['zl', /called "zl" already/],
  ] as const) {
    await name.fill(text);
    await expect(page.locator('#name-z1-error')).toContainText(why);
    await name.blur();
    await expect(page.locator('#name-z1-error')).toContainText(why);
    await expect(page.getByLabel('value z1')).toHaveValue('sqrt(z0*zl)');
  }
  await name.press('Escape');
  await expect(page.locator('#name-z1-error')).toBeHidden();
  await name.fill('quarter');
  await name.press('Enter');
  await expect(page.getByLabel('value quarter')).toHaveValue('sqrt(z0*zl)');
  await expect(review(page)).toContainText('Nothing to question');
});

test('numbers are taken as they are meant, and a complex value is stepped where the caret stands', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/lines');
  const z = page.getByLabel('Impedance', { exact: true });
  await z.fill('70');
  await expect(page.getByLabel('Width (follows)')).toHaveValue(/^0\.7\d* mm$/);
  await expect(z).toHaveValue('70');
  await z.press('Tab');
  await expect(z).toHaveValue('70 ohm');
  await z.fill('50 OHM');
  await z.press('Enter');
  await expect(z).toHaveValue('50 ohm');
  const angle = page.getByLabel('Electrical length', { exact: true });
  await angle.fill('45');
  await angle.press('Enter');
  await expect(angle).toHaveValue('45 deg');
  const follows = page.getByLabel('Width (follows)');
  await follows.focus();
  await follows.press('Enter');
  await expect(page.getByLabel('Impedance (follows)')).toBeVisible();
  // Escape brings back what was held, and not the number that was shown.
  const impedance = page.getByLabel('Impedance (follows)');
  await impedance.click();
  await impedance.pressSequentially('9');
  await page.getByLabel('Impedance', { exact: true }).press('Escape');
  await expect(page.getByLabel('Impedance (follows)')).toHaveValue(/^(50|49\.9999|50\.0001) ohm$/);
  await page.getByLabel('Width', { exact: true }).fill('Width');
  await expect(page.getByText(/"Width" is not a unit or a named value here/)).toBeVisible();

  await page.goto('/p/ditchwater/design/detector-match');
  const zl = page.getByLabel('value zl');
  await zl.click();
  await zl.evaluate((box: HTMLInputElement) => box.setSelectionRange(1, 1));
  await zl.press('ArrowUp');
  await expect(zl).toHaveValue('24-41j ohm');
  await zl.evaluate((box: HTMLInputElement) => box.setSelectionRange(5, 5));
  await zl.press('ArrowUp');
  await zl.press('ArrowUp');
  await expect(zl).toHaveValue('24-39j ohm');

  // The same lengths in mil, in this browser.
  await choose(page, page.getByRole('button', { name: /^Look/ }), /^Mil(?!l)/);
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('mil');
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).not.toContainText('\u2009mm');
});

test('the copper is held while the permittivity moves; a board of many is not changed without a word', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/design/hybrid');
  const copper = page.getByRole('region', { name: 'Ledger of pieces' });
  await expect(copper).toContainText('4 mm');
  const sizes = async () => (await copper.innerText()).match(/[\d.]+\u2009(mm|\u00B5m)/g);
  const before = await sizes();
  await page.getByRole('button', { name: 'hold the copper' }).click();
  await page.getByRole('region', { name: 'Board' }).getByRole('button', { name: 'change' }).click();
  await expect(page.getByText(/stand on this board too and will follow/)).toBeVisible();
  const er = page.getByLabel('Permittivity', { exact: true });
  await er.fill('3.4');
  await expect(levels(page)).toContainText(/below ideal|lost|centre/);
  expect(await sizes()).toEqual(before);
  await page.getByRole('button', { name: 'Give this design a board of its own' }).click();
  await er.fill('3.0');
  await page.getByRole('button', { name: 'hold the electrical side' }).click();
  await expect.poll(sizes).not.toEqual(before);
  await page.goto('/p/ditchwater/boards');
  await page.getByRole('button', { name: /^PTFE composite 2.94.*quadrature hybrid/ }).click();
  await expect(page.getByLabel('Permittivity', { exact: true })).toHaveValue('3.0');
  await page.getByRole('button', { name: /^PTFE composite 2.94(?!,).*changed.*detector match/ }).click();
  await expect(page.getByRole('row', { name: 'Permittivity 3.4 2.94' })).toBeVisible();
  await page.getByRole('button', { name: 'Set it back to what ships' }).click();
  await expect(page.getByText('It is PTFE composite 2.94 as it ships.')).toBeVisible();
  // The one that ships can be had beside the one that was changed.
  await expect(page.getByRole('button', { name: 'add PTFE composite 2.94 to the project' })).toBeVisible();
  await page.getByRole('button', { name: 'Copy this board' }).click();
  await expect(page.getByLabel('Name of the board')).toHaveValue('PTFE composite 2.94 (copy)');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Remove it' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('main').getByRole('button', { name: /\(copy\)/ })).toHaveCount(0);
});

test('places of action stand still, and the focus goes where the work goes on', async ({ page }) => {
  await openAt(page, '/p/ditchwater/recipes/quarter-wave');
  const make = page.getByRole('button', { name: 'Make the design' });
  const at = (await make.boundingBox())!;
  for (const field of ['Load', 'Sections', 'Design frequency', 'Board']) {
    await page.getByText(field, { exact: true }).first().hover();
    expect(await make.boundingBox()).toEqual(at);
  }
  await make.click();
  await expect(page.getByRole('heading', { name: /^\/ 50 to 120/ })).toBeFocused();
  await page.keyboard.press('Control+z');
  await page.goto('/p/ditchwater/recipes');
  await page.getByLabel('search the recipes').fill('isolated resistors');
  await expect(page.getByRole('main').getByRole('link')).toHaveCount(1);
  await page.getByLabel('search the recipes').fill('nothing of the kind');
  await expect(page.getByText(/No recipe says/)).toBeVisible();
  await page.keyboard.press('F1');
  const help = page.getByRole('complementary', { name: 'Help beside the work' });
  await help.getByLabel('search the help').fill('skin klopfenstein');
  await expect(help.getByText(/Nothing here says/)).toBeVisible();
  await help.getByLabel('search the help').fill('klopfenstein');
  await expect(help.getByText(/least reflection/).first()).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await expect(help).toBeHidden();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Recipes' })).toBeVisible();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the content' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('main')).toBeFocused();
});

test('the last arc is taken hold of where the marker stands; labels do not lie on one another', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/design/detector-match');
  const chart = page.getByRole('application', { name: 'reflection on the Smith chart' });
  const handle = chart.getByRole('slider', { name: 'arc of stub' });
  const box = (await handle.locator('circle').last().boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const stub = page.getByLabel('value stub', { exact: true });
  const before = await stub.inputValue();
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 30, y + 24, { steps: 6 });
  await page.mouse.up();
  await expect(stub).not.toHaveValue(before);
  await page.keyboard.press('Control+z');
  // Markers close to one another.
  const plot = page.getByRole('application', { name: 'reflection in decibels over frequency' });
  await plot.focus();
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('m');
  }
  await expect(markers(page)).toHaveCount(4);
  for (const drawn of [plot, chart]) {
    const boxes = await drawn.locator('text').evaluateAll((texts) =>
      texts
        .filter((t) => /GHz$|^-?\d/.test(t.textContent ?? ''))
        .map((t) => {
          const { x: left, y: top, width, height } = t.getBoundingClientRect();
          return { left, top, right: left + width, bottom: top + height, text: t.textContent };
        }),
    );
    const clash = boxes.flatMap((a, i) =>
      boxes
        .slice(i + 1)
        .filter(
          (b) => a.left + 1 < b.right && b.left + 1 < a.right && a.top + 3 < b.bottom && b.top + 3 < a.bottom,
        )
        .map((b) => `${a.text} on ${b.text}`),
    );
    expect(clash).toEqual([]);
  }
});

test.describe('a worker that does not answer', () => {
  test('because it was closed is replaced as well', async ({ page }) => {
    await openDemo(page);
    await expect(levels(page)).toContainText('10.55');
    // All of them: one alone may not be the one that is asked next.
    await Promise.all(page.workers().map((worker) => worker.evaluate(() => self.close())));
    await page.getByLabel('value f0').fill('8 GHz');
    await expect(page.getByText('These curves are of earlier values')).toBeVisible();
    await expect(levels(page)).toContainText('8\u2009GHz', { timeout: 40_000 });
    await expect(page.getByText('These curves are of earlier values')).toBeHidden();
  });

  test('is replaced and said; until then the curves are seen to be old', async ({ page }) => {
    test.slow();
    // From the eighth request on the first worker hangs; its successors do not.
    await page.route(
      '**/worker-*.js',
      async (route) => {
        const response = await route.fetch();
        const body = `${await response.text()}
          let asked = 0;
          self.addEventListener('message', () => { if (++asked > 8) for (;;); }, true);`;
        await route.fulfill({ response, body });
      },
      { times: 1 },
    );
    await openDemo(page);
    await expect(levels(page)).toContainText('10.55');
    const zl = page.getByLabel('value zl');
    for (let i = 0; i < 12; i++) {
      await zl.fill(`${80 + i} ohm`);
      await page.waitForTimeout(120);
    }
    await expect(page.getByText('These curves are of earlier values')).toBeVisible();
    await expect(page.getByText(/did not answer any more.*Its worker was replaced/)).toBeVisible({
      timeout: 40_000,
    });
    await expect(page.getByText('These curves are of earlier values')).toBeHidden();
    await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('67.45');
    await expect(markers(page).first()).toContainText('below \u2212200');
  });
});

test.describe('a view that fails', () => {
  test.use({ allowed: [/reading 'find'/] });
  test('offers the state before, the file, and the way back', async ({ page }) => {
    await openDemo(page);
    await page.evaluate(async () => {
      // A state that no view can draw, as only a fault of the program could make it.
      const open = indexedDB.open('ditch');
      const db = await new Promise<IDBDatabase>((resolve) => (open.onsuccess = () => resolve(open.result)));
      const store = db.transaction('projects', 'readwrite').objectStore('projects');
      const get = store.get('ditchwater');
      const row = await new Promise<{ id: string; project: Record<string, unknown> }>(
        (resolve) => (get.onsuccess = () => resolve(get.result as never)),
      );
      const broken = {
        ...row,
        id: 'bro.ken.v2',
        project: { ...row.project, id: 'bro.ken.v2', stacks: null },
      };
      await new Promise((resolve) => (store.put(broken).onsuccess = resolve));
      const whole = { ...row, id: 'amp.v2', project: { ...row.project, id: 'amp.v2' } };
      await new Promise((resolve) => (store.put(whole).onsuccess = resolve));
      db.close();
    });
    // An id may hold dots, over a reload too.
    const answer = await page.goto('/p/amp.v2');
    expect(answer!.status()).toBe(200);
    await expect(page.getByLabel('name of the project')).toBeVisible();
    await page.goto('/p/bro.ken.v2/lines');
    await expect(page.getByRole('heading', { name: 'This page failed' })).toBeVisible();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export the project file' }).click();
    expect((await download).suggestedFilename()).toBe('ditchwater-flow-gauge.ditch.json');
    await page.getByRole('button', { name: 'All projects' }).click();
    await expect(page.getByRole('heading', { name: 'Projects in this browser' })).toBeVisible();
  });
});

test.describe('without its server', () => {
  test.use({ serviceWorkers: 'allow', allowed: [/Failed to load|net::ERR/] });
  test('the page leads everywhere, and comes back after a reload', async ({ page, context }) => {
    await openDemo(page);
    await page.waitForFunction(() =>
      navigator.serviceWorker.ready.then((r) => r.active?.state === 'activated'),
    );
    await page.reload();
    await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
    await context.setOffline(true);
    for (const view of ['Lines', 'Recipes', 'Project']) {
      await nav(page, view);
      await expect(
        page
          .getByRole('main')
          .getByText(/Board|Recipes|Designs/)
          .first(),
      ).toBeVisible();
    }
    await page.goto('/p/ditchwater/design/hybrid');
    await expect(levels(page)).toContainText('10.5');
    await page.getByLabel('value z0').fill('52 ohm');
    await expect(page.getByText('saved', { exact: true })).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('value z0')).toHaveValue('52 ohm');
    // What came later works there too: kernels of the field solution, boards, writers, solids, reports.
    await page.goto('/p/ditchwater/making/bias-feed');
    await expect(page.getByRole('region', { name: 'Checks' })).toContainText('Nothing to say');
    const download = page.waitForEvent('download');
    await choose(page, page.getByRole('button', { name: 'Files ▾' }), /Gerber/);
    expect((await saved(download)).bytes.length).toBeGreaterThan(1000);
    await page.getByRole('radio', { name: 'solid' }).click();
    const solid = page.locator('[data-triangles]');
    await expect.poll(async () => Number(await solid.getAttribute('data-triangles'))).toBeGreaterThan(60);
    await page.getByRole('button', { name: 'current' }).click();
    await expect
      .poll(async () => Number(await solid.getAttribute('data-current')), { timeout: 60_000 })
      .toBeGreaterThan(50);
    await page.goto('/p/ditchwater/design/bias-feed/report');
    await expect(page.getByRole('article')).toHaveAttribute('data-ready', 'true', { timeout: 30_000 });
  });
});
