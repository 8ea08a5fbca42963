import { createParser } from '@tracespace/parser';
import { choose, drawn, expect, expectAccessible, levels, openAt, saved, test } from './fixtures';
import { unzipSync } from 'fflate';

const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes);

test('a panel of five designs is moved by hand and by field, checked, measured and written', async ({
  page,
}) => {
  await openAt(page, '/p/ditchwater/making');
  const checks = page.getByRole('region', { name: 'Checks' });
  await expect(checks).toContainText('Nothing to say', { timeout: 30_000 });
  const board = page.getByRole('group', { name: 'board, to scale' });
  // Copper is there, much of it, and the holes.
  await expect(board.locator('g.tile')).toHaveCount(5);
  for (const tile of await board.locator('g.tile path.copper').all())
    expect(await drawn(tile)).toBeGreaterThan(10);
  expect(Number(await board.locator('[data-holes]').getAttribute('data-holes'))).toBeGreaterThan(60);
  await expectAccessible(page);

  // By keys, against a neighbour: it goes as far as there is room and never over it.
  const x = page.getByLabel('x of bias feed');
  await expect(x).toHaveValue('22 mm');
  await board.getByRole('button', { name: /^bias feed at/ }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(x).toHaveValue('23 mm');
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(x).toHaveValue('22.9 mm');
  // By hand, onto the hybrid: it comes to lie beside.
  const tile = (name: RegExp) => board.getByRole('button', { name }).locator('rect');
  const [from, to] = [
    await tile(/^bias feed at/).boundingBox(),
    await tile(/^quadrature hybrid/).boundingBox(),
  ];
  await page.mouse.move(from!.x + 20, from!.y + 60);
  await page.mouse.down();
  await page.mouse.move(from!.x - 40, from!.y + 200, { steps: 4 });
  await page.mouse.move(to!.x + 60, to!.y + 60, { steps: 4 });
  await page.mouse.up();
  await expect(x).not.toHaveValue('22.9 mm');
  await expect(checks).not.toContainText('overlaps quadrature');
  await page.getByRole('button', { name: /^Undo: move bias feed/ }).click();
  await expect(x).toHaveValue('22.9 mm');

  // By field: an overlap is said at its place, and nothing is written until it is gone.
  const y = page.getByLabel('y of quadrature hybrid');
  await y.fill('20 mm');
  await y.press('Enter');
  await expect(page.getByText(/It overlaps local oscillator divider by/)).toBeVisible();
  await page.getByRole('button', { name: 'Files ▾' }).click();
  await expect(page.getByRole('menuitem', { name: /Gerber/ })).toHaveAttribute('aria-disabled', 'true');
  await page.keyboard.press('Escape');
  await y.fill('2 mm');
  await y.press('Enter');
  await expect(checks).toContainText('Nothing to say');

  // A shop that can do less sends it back: each finding with its place, which is then looked at.
  const gap = page.getByLabel('Least gap', { exact: true });
  await gap.fill('700 um');
  await gap.press('Enter');
  const finding = checks.getByRole('button', { name: /not joined; the shop etches 0.7 mm/ }).first();
  await finding.click();
  await expect(finding).toHaveAttribute('aria-pressed', 'true');
  await expect(board.locator('g.finding[aria-pressed="true"]')).toBeVisible();
  await gap.fill('100 um');
  await gap.press('Enter');
  await expect(checks).toContainText('Nothing to say');

  // Measured by keys: the width of the copper under the cross.
  await page.getByRole('button', { name: 'show all' }).click();
  await page.getByRole('button', { name: 'measure' }).click();
  const spot = await tile(/^quadrature hybrid/).boundingBox();
  await page.mouse.click(spot!.x + spot!.width / 2, spot!.y + 58);
  await expect(page.locator('output')).toContainText(/copper .* wide; all of it .* mm²/);
  await board.focus();
  for (let k = 0; k < 3; k++) await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(page.locator('output')).toContainText(/wide|apart|from a/);

  const download = page.waitForEvent('download');
  await choose(page, page.getByRole('button', { name: 'Files ▾' }), /Gerber/);
  const zip = unzipSync(new Uint8Array((await saved(download)).bytes));
  expect(Object.keys(zip).sort()).toEqual(['copper-top.gbr', 'drill.drl', 'ground.gbr', 'outline.gbr']);
  const drill = createParser();
  drill.feed(text(zip['drill.drl']));
  expect(drill.results().children.filter((c) => c.type === 'graphic').length).toBeGreaterThan(60);
  expect(text(zip['copper-top.gbr']).match(/G36\*/g)!.length).toBeGreaterThan(80);

  const picture = page.waitForEvent('download');
  await choose(page, page.getByRole('button', { name: 'Files ▾' }), /Picture/);
  expect((await saved(picture)).bytes.length).toBeGreaterThan(20_000);
  const bill = page.waitForEvent('download');
  await choose(page, page.getByRole('button', { name: 'Files ▾' }), /Mounted parts/);
  expect((await saved(bill)).text).toContain('resistor,100 ohm,1,local oscillator divider');
});

test('a new panel is filled, arranged, given a drawn rim, and comes back by undo', async ({ page }) => {
  await openAt(page, '/p/ditchwater/making');
  await page.getByRole('button', { name: 'new panel' }).click();
  await expect(page.getByLabel('Name of the panel')).toHaveValue('panel 1');
  for (const name of ['quadrature hybrid', 'local oscillator divider', 'bias feed'])
    await choose(page, page.getByRole('button', { name: 'put a design ▾' }), name);
  const board = page.getByRole('group', { name: 'board, to scale' });
  await expect(board.locator('g.tile')).toHaveCount(3);
  // What stands on another board is not to be had.
  await page.getByRole('button', { name: 'put a design ▾' }).click();
  await expect(page.getByRole('menuitem', { name: /telemetry band-pass/ })).toHaveAttribute(
    'aria-disabled',
    'true',
  );
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'arrange' }).click();
  await page.getByRole('button', { name: 'Turn bias feed', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Turn bias feed', exact: true })).toHaveText('turned 90°');
  await page.getByRole('button', { name: 'Add: Via fence' }).click();
  await expect
    .poll(async () => Number(await board.locator('[data-holes]').getAttribute('data-holes')))
    .toBeGreaterThan(10);
  // A rim as it is drawn elsewhere: a plate with one corner cut off.
  const corners = [
    [0, 0],
    [60, 0],
    [60, 30],
    [50, 40],
    [0, 40],
  ];
  const dxf = [
    '0',
    'SECTION',
    '2',
    'HEADER',
    '9',
    '$INSUNITS',
    '70',
    '4',
    '0',
    'ENDSEC',
    '0',
    'SECTION',
    '2',
    'ENTITIES',
    '0',
    'LWPOLYLINE',
    '8',
    'OUTLINE',
    '90',
    '5',
    '70',
    '1',
    ...corners.flatMap(([u, v]) => ['10', String(u), '20', String(v)]),
    '0',
    'ENDSEC',
    '0',
    'EOF',
    '',
  ].join('\n');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'rim from a drawing' }).click();
  await (
    await chooser
  ).setFiles([{ name: 'plate.dxf', mimeType: 'image/vnd.dxf', buffer: Buffer.from(dxf) }]);
  await expect(page.getByText('drawn, 5 corners')).toBeVisible();
  await expect(page.getByText('60 mm × 40 mm')).toBeVisible();
  for (let k = 0; k < 7; k++) await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByRole('button', { name: /^panel 1/ })).toHaveCount(1);
  await page.getByRole('button', { name: /^Undo: add panel 1/ }).click();
  await expect(page.getByRole('button', { name: /^panel 1/ })).toHaveCount(0);
});

test('a board is a solid with its current, and a report has everything on paper', async ({ page }) => {
  await openAt(page, '/p/ditchwater/making/hybrid');
  await page.getByRole('radio', { name: 'solid' }).click();
  const solid = page.locator('[data-triangles]');
  await expect.poll(async () => Number(await solid.getAttribute('data-triangles'))).toBeGreaterThan(60);
  /** Different colours in the picture: an empty one has a single one. */
  const colours = () =>
    solid.locator('canvas').evaluate((canvas: HTMLCanvasElement) => {
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [canvas.width, canvas.height];
      const pen = copy.getContext('2d')!;
      pen.drawImage(canvas, 0, 0);
      const { data } = pen.getImageData(0, 0, copy.width, copy.height);
      const found = new Map<number, number>();
      for (let i = 0; i < data.length; i += 4) {
        const colour = (data[i] << 16) | (data[i + 1] << 8) | data[i + 2];
        found.set(colour, (found.get(colour) ?? 0) + 1);
      }
      return [...found.values()].filter((n) => n > 300).length;
    });
  await expect.poll(colours).toBeGreaterThan(3);
  const plain = await colours();
  await solid.focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('+');
  await expect(page.getByRole('button', { name: 'show all' })).toBeVisible();
  await page.getByRole('button', { name: 'current' }).click();
  await expect
    .poll(async () => Number(await solid.getAttribute('data-current')), { timeout: 60_000 })
    .toBeGreaterThan(50);
  await expect.poll(colours).toBeGreaterThan(plain + 3);
  // Thicker copper still carries it.
  const laid = await colours();
  await page.getByRole('radio', { name: '× 5' }).click();
  await page.waitForTimeout(500);
  await expect.poll(colours).toBeGreaterThan((plain + laid) / 2);
  const picture = page.waitForEvent('download');
  await page.getByRole('button', { name: 'picture', exact: true }).click();
  expect((await saved(picture)).bytes.length).toBeGreaterThan(8000);
  await expectAccessible(page);

  await choose(page, page.getByRole('button', { name: /^Export/ }), /Data of any response/);
  const dialog = page.getByRole('dialog', { name: 'Data of a response' });
  await dialog.getByRole('radio', { name: 'Z', exact: true }).click();
  await dialog.getByRole('radio', { name: 'CSV' }).click();
  await expect(dialog.getByRole('status')).toContainText(/-z\.csv, .*: Z of/);
  await page.keyboard.press('Escape');

  // What the limits come to is the same on paper as beside the work.
  await openAt(page, '/p/ditchwater/design/hybrid');
  await expect(levels(page).locator('[data-level=solved]')).toContainText('GHz');
  const judged = page.getByText(/^limits (kept|missed) by/);
  await expect(judged).toHaveCount(2);
  const beside = await judged.allTextContents();
  await openAt(page, '/p/ditchwater/design/hybrid/report');
  const sheet = page.getByRole('article', { name: 'report of quadrature hybrid' });
  await expect(sheet).toHaveAttribute('data-ready', 'true', { timeout: 30_000 });
  await expect(sheet).toContainText('Levels: ideal, modelled, solved.');
  await expect(sheet.getByText(/^limits (kept|missed) by/)).toHaveText(beside);
  await expect(sheet).toContainText('Nothing that Ditchwater board shop would send back');
  expect(await drawn(sheet.locator('path.copper'))).toBeGreaterThan(10);
  for (const chart of await sheet.locator('figure').all())
    expect(await chart.locator('svg path').count()).toBeGreaterThan(2);
  await page.getByRole('button', { name: 'Take the spread along' }).click();
  await expect(sheet).toContainText(/samples .* keep all limits/, { timeout: 60_000 });
  await expectAccessible(page);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as HTML' }).click();
  const html = (await saved(download)).text;
  expect(html).toContain('<h1>quadrature hybrid</h1>');
  expect(html).not.toMatch(/https?:\/\/(?!www\.w3\.org)/);
});
