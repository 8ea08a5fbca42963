import { choose, expect, expectAccessible, nav, openDemo, saved, test, levels } from './fixtures';

test('from a board and an impedance to a match, simulated, read and carried away', async ({
  page,
  browser,
}) => {
  await openDemo(page);
  await expect(page).toHaveURL(/\/p\/ditchwater\/design\/lo-match$/);
  const waterline = levels(page);
  await expect(waterline).toContainText('10.55');

  await test.step('a line follows in both directions while typing', async () => {
    await nav(page, 'Lines');
    await choose(page, page.getByRole('button', { name: /Laminate/ }), /Alumina/);
    const field = (name: string) => page.getByLabel(name, { exact: true });
    await field('Impedance').fill('50 ohm');
    await expect(field('Width (follows)')).toHaveValue(/^0\.6\d* mm$/);
    await field('Width (follows)').fill('36mil');
    await expect(page.getByLabel('Impedance (follows)')).toHaveValue(/^4[0-3]\.\d+ ohm$/);
    await field('Width').fill('lambda/20');
    await expect(page.getByText('"lambda" is not a unit or a named value here')).toBeVisible();
    await field('Width').fill('0.02 mm');
    await expect(page.getByLabel('Warnings')).toContainText('narrower than the 25');
    await expect(page.getByLabel('Warnings')).toContainText('Kirschning & Jansen 1982');
    await page.getByLabel('Impedance (follows)').fill('50 ohm');
    await expect(page.getByLabel('Warnings')).toBeHidden();
    await field('Lid').fill('0.6 mm');
    await expect(field('Width (follows)')).not.toHaveValue(/^0\.6\d* mm$/);
    await field('Copper').fill('0.5 oz');
    await expect(page.getByText('17.4 \u00B5m')).toHaveCount(2);
    await page.getByRole('radio', { name: 'Stripline' }).click();
    await expect(field('Lid')).toBeHidden();
    await expect(field('Ground spacing')).toBeVisible();
    await expect(page.getByText('velocity factor').locator('+ dd')).toHaveText('0.3178');
    await page.getByRole('radio', { name: 'Microstrip' }).click();
    await field('Lid').fill('');
    await expect(
      page.getByRole('application', { name: 'impedance in ohm over width' }).locator('path'),
    ).toHaveAttribute('d', /^M/);
  });

  await test.step('a recipe explains itself and makes the design', async () => {
    await page.getByRole('button', { name: 'Match with this board' }).click();
    await page.getByLabel('Load', { exact: true }).fill('5 mm');
    await expect(page.getByText(/needs a resistance or impedance/).first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Make the design' })).toBeDisabled();
    await page.getByLabel('Load', { exact: true }).fill('30 ohm');
    await page.getByLabel('Sections').fill('2');
    await expect(page.getByText(/Sections from source to load: 44\.01, 34\.09/)).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('Load', { exact: true })).toHaveValue('30 ohm');
    await page.getByRole('button', { name: 'Make the design' }).click();
    await expect(page).toHaveURL(/\/design\/[a-z0-9]+$/);
    await expect(page.getByRole('button', { name: /^section 1/ }).first()).toBeVisible();
  });

  await test.step('everything follows a change, and undo takes it back', async () => {
    const load = page.getByLabel('value zl');
    await load.fill('2*z0 - 20 ohm');
    await expect(page.getByRole('region', { name: 'Markers' }).getByRole('row').nth(1)).toContainText(
      '\u2212',
    );
    await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('80\u2009\u03A9');
    await load.fill('2*z0 + 3mm');
    await expect(page.getByText('adds a length to a resistance or impedance').first()).toBeVisible();
    await expect(page.getByText(/The response waits: zl: adds a length/)).toBeVisible();
    await expect(waterline).not.toContainText('10.55');
    await load.fill('23-41j ohm');
    await expect(page.getByText(/The response waits/)).toBeVisible();
    await load.press('Escape');
    await load.fill('40 ohm');
    await load.press('ArrowUp');
    await expect(load).toHaveValue('41 ohm');
    await load.press('Shift+ArrowDown');
    await expect(load).toHaveValue('40.9 ohm');
    await load.blur();
    await page.getByLabel('value f0').fill('5.8 GHz');
    await expect(waterline).toContainText('5.8');
    await page.keyboard.press('Control+z');
    await expect(page.getByLabel('value f0')).toHaveValue('10.55 GHz');
    await page.getByRole('button', { name: /^Undo/ }).click();
    await expect(load).toHaveValue('30 ohm');
    await page.keyboard.press('Control+Shift+z');
    await expect(load).toHaveValue('40.9 ohm');
  });

  await test.step('the ledger, the copper and the held side are one thing', async () => {
    await page.getByRole('button', { name: 'section 2', exact: true }).click();
    await page.getByLabel('section 2: width (follows)').fill('1.3 mm');
    await page.getByLabel('section 2: length (follows)').fill('lambda/4 - 0.1mm');
    await expect(page.getByLabel('section 2: impedance (follows)')).toHaveValue(/ohm$/);
    await page.getByRole('button', { name: 'change', exact: true }).click();
    await choose(page, page.getByRole('button', { name: /Laminate/ }), /Hydrocarbon/);
    await expect(page.getByLabel('section 2: width', { exact: true })).toHaveValue('1.3 mm');
  });

  await test.step('markers are set, stepped, dragged and read', async () => {
    const chart = page.getByRole('application', { name: 'reflection in decibels over frequency' });
    await chart.focus();
    // All but how far down the curves go, which may still be on their way.
    const ticks = async () =>
      (await chart.locator('g > text').allTextContents()).filter((text) => /^\d/.test(text));
    const whole = await ticks();
    expect(whole.length).toBeGreaterThan(2);
    await page.keyboard.press('+');
    await page.keyboard.press('PageDown');
    expect(await ticks()).not.toEqual(whole);
    await page.keyboard.press('0');
    expect(await ticks()).toEqual(whole);
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('m');
    const markers = page.getByLabel('marker frequency');
    await expect(markers).toHaveCount(2);
    const value = await markers.nth(1).inputValue();
    const handle = page.getByRole('slider', { name: /marker/ });
    await handle.focus();
    await page.keyboard.press('Shift+ArrowRight');
    await expect(markers.nth(1)).not.toHaveValue(value);
    const box = (await handle.locator('rect').boundingBox())!;
    const stepped = await markers.nth(1).inputValue();
    const middle = box.x + box.width / 2;
    await page.mouse.move(middle, box.y + 80);
    await page.mouse.down();
    await page.mouse.move(middle + 84, box.y + 80, { steps: 6 });
    await page.mouse.up();
    await expect(markers.nth(1)).not.toHaveValue(stepped);
    await markers.nth(1).fill('2*f0');
    await expect(page.getByText('21.1\u2009GHz lies outside the sweep')).toBeVisible();
    await markers.nth(1).fill('0.9*f0');
    await expect(page.getByRole('region', { name: 'Markers' }).getByRole('row').nth(2)).toContainText('∠');
    await expect(page.getByRole('region', { name: 'Markers' }).getByRole('row').nth(2)).toContainText(
      '\u03A9',
    );
  });

  await test.step('curves are kept, data is imported beside them, charts are exported', async () => {
    const commands = page.getByRole('button', { name: 'Match at port 1: chart commands' });
    await choose(page, commands, /Keep the modelled curve/);
    await expect(page.locator('text').filter({ hasText: /^modelled, 40/ })).toBeVisible();
    const chooser = page.waitForEvent('filechooser');
    await choose(page, commands, /Import Touchstone/);
    const files = [
      {
        name: 'bench.s1p',
        mimeType: 'text/plain',
        buffer: Buffer.from('# GHz S MA R 50\n6 0.5 10\n10 0.2 -40\n15 0.4 90\n'),
      },
    ];
    await (await chooser).setFiles(files);
    await expect(page.locator('text').filter({ hasText: 'bench.s1p' })).toBeVisible();
    const wrong = page.waitForEvent('filechooser');
    await choose(page, commands, /Import Touchstone/);
    await (
      await wrong
    ).setFiles([{ ...files[0], name: 'broken.s1p', buffer: Buffer.from('# GHz S MA R 50\n6 0.5\n') }]);
    await expect(page.getByText(/broken\.s1p was not imported: line 2/)).toBeVisible();
    await page.getByRole('button', { name: 'Dismiss' }).click();

    const get = async (command: RegExp) => {
      const download = page.waitForEvent('download');
      await choose(page, commands, command);
      return saved(download);
    };
    expect((await get(/Export CSV/)).text.split('\r\n')[0]).toMatch(
      /^frequency_Hz,S11_modelled_dB,S11_ideal_dB/,
    );
    const svg = (await get(/Export SVG/)).text;
    expect(svg).toMatch(/^<svg.*<\/svg>$/s);
    expect(svg).not.toContain('var(--');
    expect((await get(/Export PNG/)).bytes.subarray(1, 4).toString()).toBe('PNG');
    await choose(page, commands, /Show as table/);
    await expect(page.getByRole('region', { name: /table/ }).getByRole('row')).toHaveCount(402);
    await choose(page, commands, /Show as chart/);
  });

  await test.step('nothing is lost by a reload, and the files carry it elsewhere', async () => {
    await expect(page.getByText('saved')).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('value zl')).toHaveValue('40.9 ohm');
    await expect(page.getByLabel('marker frequency')).toHaveCount(2);
    const menu = page.getByRole('button', { name: /^Export/ });
    await choose(page, menu, /Data of any response/);
    const dialog = page.getByRole('dialog', { name: 'Data of a response' });
    await dialog.getByRole('radio', { name: 'dB, angle' }).click();
    await expect(dialog.getByRole('status')).toContainText(/modelled\.s1p, .*S of 1 port as dB, angle/);
    await expectAccessible(page);
    const touchstone = page.waitForEvent('download');
    await dialog.getByRole('button', { name: 'Write the file' }).click();
    const s1p = await saved(touchstone);
    expect(s1p.name).toMatch(/\.s1p$/);
    expect(s1p.text).toMatch(/# Hz S DB R 50\n5275000000 -\d/);
    const download = page.waitForEvent('download');
    await page.keyboard.press('Control+e');
    const project = await saved(download);

    const other = await browser.newContext({ baseURL: new URL(page.url()).origin });
    const elsewhere = await other.newPage();
    await elsewhere.goto('/projects');
    await expect(elsewhere.getByText('There is no project here yet')).toBeVisible();
    const chooser = elsewhere.waitForEvent('filechooser');
    await elsewhere.getByRole('button', { name: 'Import a project file' }).click();
    await (
      await chooser
    ).setFiles([{ name: project.name, mimeType: 'application/json', buffer: project.bytes }]);
    await elsewhere.getByRole('link', { name: /open 50 to 30/ }).click();
    await expect(elsewhere.getByLabel('value zl')).toHaveValue('40.9 ohm');
    await expect(elsewhere.locator('text').filter({ hasText: 'bench.s1p' })).toBeVisible();
    const newer = { ...(JSON.parse(project.text) as object), version: 9 };
    await elsewhere.goto('/projects');
    const again = elsewhere.waitForEvent('filechooser');
    await elsewhere.getByRole('button', { name: 'Import a project file' }).click();
    await (
      await again
    ).setFiles([
      { name: 'new.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(newer)) },
    ]);
    await expect(elsewhere.getByText(/written by a newer Ditch/)).toBeVisible();
    await expect(elsewhere.getByRole('listitem')).toHaveCount(1);
    await other.close();
  });
});

test('every view is accessible, in both looks', async ({ page }) => {
  await openDemo(page);
  const views: [string, () => Promise<void>][] = [
    ['design', async () => expect(levels(page)).toContainText('band')],
    ['lines', () => nav(page, 'Lines')],
    ['recipes', () => nav(page, 'Recipes')],
    ['recipe', () => page.getByRole('link', { name: /Branch-line hybrid/ }).click()],
    [
      'a forbidden match',
      async () => void (await page.goto('/p/ditchwater/recipes/double-stub?load=10+ohm&spacing=90+deg')),
    ],
    [
      'attempts of a match',
      async () => {
        await page.goto('/p/ditchwater/design/detector-match');
        await page.getByRole('button', { name: '2 attempts' }).click();
        await expect(page.getByRole('dialog', { name: 'Attempts' })).toBeVisible();
      },
    ],
    ['project', () => nav(page, 'Project')],
    ['compare', () => page.getByRole('link', { name: /^Compare with Designs as/ }).click()],
    [
      'a hybrid with a piece in hand',
      async () => {
        await nav(page, 'Project');
        await page.getByRole('link', { name: 'open quadrature hybrid' }).click();
        await page.getByRole('button', { name: 'branch 2 to 3', exact: true }).click();
        await expect(page.getByRole('slider', { name: 'length of branch 2 to 3' })).toBeVisible();
      },
    ],
    ['help', () => page.getByRole('link', { name: 'Help' }).click()],
    ['projects', () => page.getByRole('link', { name: /all projects/ }).click()],
  ];
  for (const [name, open] of views)
    await test.step(name, async () => {
      await open();
      await expect(page.getByText('Loading…')).toBeHidden();
      for (const scheme of ['light', 'dark'] as const) {
        await page.emulateMedia({ colorScheme: scheme });
        await expectAccessible(page);
      }
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
    });
});
