import { answerLate, choose, expect, levels, nav, openDemo, test } from './fixtures';

test('two tabs on one project lose neither one\u2019s work', async ({ page, context }) => {
  await openDemo(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByLabel('value zl')).toHaveValue('120 ohm');
  await page.getByLabel('value zl').fill('130 ohm');
  await other.getByLabel('value z0').fill('60 ohm');
  for (const tab of [page, other]) {
    await expect(tab.getByLabel('value zl')).toHaveValue('130 ohm');
    await expect(tab.getByLabel('value z0')).toHaveValue('60 ohm');
  }
  await page.bringToFront();
  await page.getByRole('button', { name: 'Undo: change zl' }).click();
  await expect(other.getByLabel('value zl')).toHaveValue('120 ohm');
  await expect(other.getByLabel('value z0')).toHaveValue('60 ohm');
});

test('what was typed in the last moment before a reload is there after it', async ({ page }) => {
  await openDemo(page);
  for (const load of ['71 ohm', '72 ohm', '73 ohm']) {
    await page.getByLabel('value zl').fill(load);
    await page.reload();
    await expect(page.getByLabel('value zl')).toHaveValue(load);
  }
  await expect(page.getByText(/not saved/)).toBeHidden();
});

test('checkpoints keep a state to return to; a project is copied and deleted', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Project');
  await page.getByLabel('name of the checkpoint').fill('before the change');
  await page.getByRole('button', { name: 'Keep' }).click();
  await page.getByRole('button', { name: 'Remove detector match' }).click();
  await expect(page.getByRole('link', { name: 'open detector match' })).toBeHidden();
  await page.getByRole('button', { name: 'Return to before the change' }).click();
  await expect(page.getByRole('link', { name: 'open detector match' })).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByRole('link', { name: 'open detector match' })).toBeHidden();
  await page.getByRole('button', { name: 'Copy local oscillator match' }).click();
  await expect(page.getByLabel(/name of the design local oscillator match \(copy\)/)).toBeVisible();
  const title = page.getByLabel('name of the project');
  await title.focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Delete');
  await expect(title).toHaveAttribute('aria-invalid', 'true');
  await page.keyboard.type('Sluice');
  await expect(page.getByRole('link', { name: 'Sluice' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.getByRole('link', { name: /all projects/ }).click();
  await page.getByRole('button', { name: 'Copy Ditchwater flow gauge' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(2);
  await page.getByRole('button', { name: 'Delete Ditchwater flow gauge (copy)' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(1);
  // A new project asks for what all else depends on, and offers what was used last.
  await page.getByRole('button', { name: 'New project' }).click();
  const dialog = page.getByRole('dialog', { name: 'New project' });
  const freq = dialog.getByLabel('design frequency');
  await expect(freq).toHaveValue('10.55 GHz');
  await freq.fill('10 mm');
  await expect(dialog.getByText(/needs a frequency/)).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Create the project' })).toBeDisabled();
  await freq.fill('5.8 ghz');
  await choose(page, dialog.getByRole('button', { name: /Laminate/ }), /Alumina/);
  await dialog.getByRole('button', { name: 'Create the project' }).click();
  await expect(page.getByText(/No design yet.*Alumina 99.6 % at 5.8 GHz/)).toBeVisible();
  await page.getByRole('link', { name: /Branch-line hybrid/ }).click();
  await expect(page.getByLabel('Design frequency')).toHaveValue('5.8 GHz');
});

test('addresses that lead nowhere say so', async ({ page }) => {
  await page.goto('/p/nowhere/lines');
  await expect(page.getByText('This project is not in this browser')).toBeVisible();
  await openDemo(page);
  await page.goto('/p/ditchwater/design/nothing');
  await expect(page.getByText('This design is not in the project')).toBeVisible();
  await page.goto('/what/ever');
  await expect(page.getByText('There is no such page')).toBeVisible();
});

test.describe('a worker that dies', () => {
  test.use({ allowed: [/lost on purpose/] });
  test('is replaced and said, and the next result is right', async ({ page }) => {
    await openDemo(page);
    await expect(levels(page)).toContainText('10.55');
    await page.workers()[0].evaluate(() => {
      setTimeout(() => {
        throw new Error('lost on purpose');
      });
    });
    await expect(page.getByText(/worker was replaced/)).toBeVisible();
    await page.getByLabel('value f0').fill('8 GHz');
    await expect(levels(page)).toContainText('8\u2009GHz');
  });
});

test('a long sweep gives way to the values typed after it', async ({ page }) => {
  await openDemo(page);
  await page.getByLabel('sweep points').fill('20001');
  for (const load of ['80 ohm', '90 ohm', '99 ohm']) await page.getByLabel('value zl').fill(load);
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('70.36');
  const row = page.getByRole('region', { name: 'Markers' }).getByRole('row').nth(1);
  await expect(row).toContainText('50.1');
  await page.getByRole('button', { name: 'Match at port 1: chart commands' }).click();
  await page.getByRole('menuitem', { name: /Show as table/ }).click();
  await expect(page.getByText('the CSV file has all 20001')).toBeVisible();
});

test('a long computation shows its progress, is stopped, and is taken up again', async ({ page }) => {
  await answerLate(page, 700);
  await openDemo(page);
  await page.goto('/p/ditchwater/recipes/quarter-wave?sections=20&load=200+ohm');
  await page.getByRole('button', { name: 'Make the design' }).click();
  await page.getByLabel('sweep points').fill('20001');
  await page.getByRole('button', { name: 'stop', exact: true }).click();
  await expect(page.getByText('The computation was stopped')).toBeVisible();
  await expect(levels(page)).toContainText('ideal—');
  await page.getByRole('button', { name: 'Compute it' }).click();
  await expect(levels(page)).toContainText('band over');
  await expect(page.getByText('The computation was stopped')).toBeHidden();
});

test('without storage the work goes on and the page says what to do', async ({ page }) => {
  await page.addInitScript(() => {
    Object.defineProperty(window, 'indexedDB', { value: undefined });
  });
  await openDemo(page);
  await expect(page.getByRole('alert')).toContainText('Export the project file to keep your work');
  await page.getByLabel('value zl').fill('75 ohm');
  await expect(page.getByRole('region', { name: 'Ledger of pieces' })).toContainText('61.24');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export now' }).click();
  expect((await download).suggestedFilename()).toBe('ditchwater-flow-gauge.ditch.json');
});
