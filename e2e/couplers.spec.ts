import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
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

const coupling = async (page: Page, level: string): Promise<number> =>
  Number(
    /([\d.]+)\u2009dB/.exec(await levels(page).locator(`[data-level=${level}]`).innerText())?.[1] ?? NaN,
  );

test('a coupler goes from decibels to copper to its plot by keyboard', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Recipes');
  await page.getByRole('link', { name: /Coupled-line coupler/ }).press('Enter');
  const field = page.getByRole('textbox', { name: 'Coupling', exact: true });
  await field.focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('12 dB');
  await expect(page.getByRole('status').filter({ hasText: 'within 1 dB' })).toContainText(
    /12\u2009dB.*modelled/s,
  );
  // What else reaches this coupling: bars on the board's own gaps, those that do told from those that do not.
  const reach = page.getByRole('img', { name: /reach of coupling/ });
  await expect(reach.locator('rect.bar')).toHaveCount(3);
  await expect(reach).toHaveAccessibleName(/12.dB can be had by strips side by side or two in tandem/);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make the design' }).press('Enter');
  await expect(
    page
      .getByRole('group', { name: 'coupled lines' })
      .or(page.getByRole('button', { name: 'coupled lines', exact: true }))
      .first(),
  ).toBeVisible();
  await expect.poll(() => coupling(page, 'ideal')).toBeCloseTo(12, 1);
  // Where the strips bend away they couple less.
  const modelled = await coupling(page, 'modelled');
  expect(modelled).toBeGreaterThan(12.3);
  expect(modelled).toBeLessThan(15);
  // Both strips are copper, and the curves of all four ports are drawn.
  const plot = page.getByRole('region', { name: 'From port 1' });
  const curves = plot.locator('path[fill=none]');
  expect(await curves.count()).toBeGreaterThanOrEqual(8);
  for (const curve of await curves.all()) expect(await drawn(curve)).toBeGreaterThan(50);
  for (const name of ['S21', 'S31', 'S41', 'S11'])
    await expect(plot.getByText(name, { exact: true })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Directivity' })).toBeVisible();
});

test('a gap is dragged, and the coupling follows the hand', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/monitor-coupler-between');
  await expect.poll(() => coupling(page, 'modelled')).toBeGreaterThan(15);
  await page.getByRole('button', { name: 'hold the copper' }).click();
  await page.getByRole('button', { name: 'coupled lines 2', exact: true }).first().press('Enter');
  const grip = page.getByRole('slider', { name: 'gap of coupled lines 2' });
  const before = await coupling(page, 'modelled');
  const gap = Number(await grip.getAttribute('aria-valuenow'));
  const box = (await grip.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  let last = before;
  for (const by of [2, 4, 6]) {
    // The second strip lies above the first: upwards is apart.
    await page.mouse.move(x, y - by);
    await expect.poll(() => coupling(page, 'modelled')).toBeGreaterThan(last + 0.05);
    last = await coupling(page, 'modelled');
  }
  // However slowly it is dragged, it is one step.
  await page.waitForTimeout(1700);
  await page.mouse.move(x, y - 8);
  await expect.poll(() => coupling(page, 'modelled')).toBeGreaterThan(last);
  await page.mouse.up();
  expect(Number(await grip.getAttribute('aria-valuenow'))).toBeGreaterThan(gap);
  await page.getByRole('button', { name: 'undo' }).click();
  await expect.poll(() => coupling(page, 'modelled')).toBeCloseTo(before, 1);
  // And by keyboard.
  await grip.press('ArrowUp');
  await expect.poll(() => coupling(page, 'modelled')).toBeGreaterThan(before);
});

test('a coupler with capacitors across its gaps says why it is not solved', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/monitor-coupler');
  await page.getByRole('button', { name: 'Why not solved' }).press('Enter');
  await expect(page.getByRole('dialog')).toContainText(/the end capacitance of .* is not in its copper/);
});

test('a pair is looked at: its curves, its odd mode\u2019s field, a place on the map', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Lines');
  await choose(page, page.getByRole('button', { name: /Shape/ }), 'Coupled pair');
  const value = (name: string) => page.getByRole('textbox', { name: new RegExp(`^${name}`) }).inputValue();
  await expect(page.getByRole('textbox', { name: /^Coupling/ })).toHaveValue('15 dB');
  const curve = page.getByRole('region', { name: 'Coupling over gap' });
  await expect(curve.locator('tspan').getByText('coupling', { exact: true })).toBeVisible();

  await page.getByRole('radio', { name: 'Odd field' }).click();
  const lines = page.locator('.equipotential');
  await expect(lines).toHaveCount(18);
  for (const line of await lines.all()) expect(await drawn(line)).toBeGreaterThan(40);
  for (const ribbon of await page.locator('path.current').all())
    expect(await drawn(ribbon)).toBeGreaterThan(40);
  const reader = page.locator('[aria-roledescription="field reader"]');
  // In the middle between opposite strips there is nothing, at the right strip a volt.
  await reader.press('ArrowUp');
  await expect(reader).toHaveAttribute('aria-label', /^field: 0 V/);
  for (let i = 0; i < 12; i++) await reader.press('ArrowRight');
  await expect(reader).toHaveAttribute('aria-label', /^field: 0\.[2-9]/);
  await expectAccessible(page);

  await choose(page, page.getByRole('button', { name: /Picture/ }), 'Map of width and gap');
  const map = page.getByRole('region', { name: 'Map of width and gap' });
  await expect(map.locator('g.impedance path').first()).toBeAttached({ timeout: 20_000 });
  expect(await map.locator('g.coupling path').count()).toBeGreaterThan(6);
  for (const line of await map.locator('g.impedance path, g.coupling path').all())
    expect(await drawn(line)).toBeGreaterThan(15);
  const gap = await value('Gap');
  const point = map.locator('[aria-roledescription="point on the map"]');
  await expect(point).toHaveAttribute('aria-label', /50\u2009\u03A9, 15 dB/);
  await point.press('ArrowUp');
  await expect(point).not.toHaveAttribute('aria-label', /, 15 dB/);
  expect(await value('Gap')).not.toBe(gap);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'undo' }).click();
  await expect(point).toHaveAttribute('aria-label', /, 15 dB/);

  await choose(page, page.getByRole('button', { name: /Shape/ }), 'Coplanar over ground');
  await expect(page.getByRole('region', { name: 'Impedance over slot' })).toBeVisible();
  const section = page.getByRole('img', { name: /cross-section.*slot 0\.2/ });
  await expect(section).toBeVisible();
  await page.getByText('Field', { exact: true }).click();
  await expect(section.locator('path.equipotential')).toHaveCount(18, { timeout: 20_000 });
  for (const part of await section.locator('path.equipotential, path.current').all())
    expect(await drawn(part)).toBeGreaterThan(40);
});

test('two lines that ran too close become a pair, by one press', async ({ page }) => {
  await openDemo(page);
  const demo = JSON.parse(readFileSync('examples/ditchwater.ditch.json', 'utf8')) as {
    designs: Record<string, unknown>[];
  };
  const piece = (id: string, kind: string, held: object, nodes: string[], settings = {}) => ({
    id,
    name: id,
    kind,
    held,
    nodes,
    settings,
  });
  const bend = { shape: 'square', side: 'left' };
  const hairpin = {
    ...demo.designs[0],
    id: 'hairpin',
    name: 'hairpin',
    recipe: undefined,
    values: [{ name: 'f0', value: '10.55 GHz' }],
    attempts: undefined,
    plots: undefined,
    overlays: [],
    pieces: [
      piece('port1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
      piece('there', 'line', { width: '1.2 mm', length: '8 mm' }, ['a', 'b']),
      piece('corner', 'bend', {}, ['b', 'c'], bend),
      piece('across', 'line', { width: '1.2 mm', length: '1.5 mm' }, ['c', 'd']),
      piece('corner2', 'bend', {}, ['d', 'e'], bend),
      piece('back', 'line', { width: '1.2 mm', length: '8 mm' }, ['e', 'f']),
      piece('port2', 'port', { z: '50 ohm' }, ['f'], { number: '2' }),
    ],
  };
  const text = JSON.stringify({ ...demo, id: 'close', name: 'Too close', designs: [hairpin] });
  await page.goto('/projects');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: /^Import/ }).click();
  await (
    await chooser
  ).setFiles({ name: 'close.ditch.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  // Once it is read and stored the project opens by itself.
  await page.getByRole('link', { name: /open hairpin/ }).click();
  const review = page.getByRole('region', { name: 'Review' });
  await expect(review).toContainText(/there and back run 0\.3\u2009mm apart/);
  await review.getByRole('button', { name: 'Make them coupled lines' }).click();
  await expect(page.getByRole('button', { name: 'coupled lines', exact: true }).first()).toBeVisible();
  await expect(review).not.toContainText('run 0.3');
  await page.getByRole('button', { name: 'undo' }).click();
  await expect(review).toContainText(/there and back run/);
});

test('the copper leaves for a shop in every format, and says why where it cannot', async ({ page }) => {
  await openAt(page, '/p/ditchwater/design/hybrid');
  const take = async (label: string) => {
    const download = page.waitForEvent('download');
    await choose(page, page.getByRole('button', { name: /^Export/ }), label);
    return saved(download);
  };
  const gerber = await take('Gerber and drill files zip');
  expect(gerber.name).toBe('quadrature-hybrid.gerber.zip');
  const files = unzipSync(gerber.bytes);
  expect(Object.keys(files).sort()).toEqual(['copper-top.gbr', 'drill.drl', 'ground.gbr', 'outline.gbr']);
  expect(new TextDecoder().decode(files['copper-top.gbr'])).toMatch(/G36\*\nG01\*\nX\d+Y\d+D02\*/);
  expect((await take('DXF mm')).text).toContain('LWPOLYLINE');
  expect([...(await take('GDSII 1 nm')).bytes.subarray(0, 4)]).toEqual([0, 6, 0, 2]);
  const svg = (await take('SVG, scale 1 mm')).text;
  expect(svg).toContain('<g id="copper"');
  // As large as it is: the hybrid is 12.6 mm long.
  expect(svg).toMatch(/width="12\.[56]\d*mm"/);
  expect(JSON.parse((await take('Copper to be solved JSON')).text)).toMatchObject({
    format: 'ditch-copper',
    version: 1,
  });
  await page.getByLabel('value ratio').fill('-1');
  await choose(page, page.getByRole('button', { name: /^Export/ }), 'DXF mm');
  await expect(page.getByText(/The board was not exported: /)).toBeVisible();
});
