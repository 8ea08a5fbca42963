import type { Locator, Page } from '@playwright/test';
import { expect, levels, nav, openDemo, test } from './fixtures';

const ledger = (page: Page): Locator => page.getByRole('region', { name: 'Ledger of pieces' });
const review = (page: Page): Locator => page.getByRole('region', { name: 'Review' });
const focused = (page: Page): Promise<string> =>
  page.evaluate(() => document.activeElement?.getAttribute('aria-label') ?? '');

async function emptyDesign(page: Page): Promise<void> {
  await openDemo(page);
  await nav(page, 'Project');
  await page.getByRole('button', { name: 'Empty design' }).click();
  await expect(page.getByText('A network is grown from its first port')).toBeVisible();
}

test('a Wilkinson divider is grown from an empty design with the keyboard alone, and taken back', async ({
  page,
}) => {
  await emptyDesign(page);
  /** Opens the menu of the pin that has the focus and takes an entry by its first letters. */
  const grow = async (letters: string, next: RegExp) => {
    await page.keyboard.press('Enter');
    await expect(page.getByRole('menu')).toBeVisible();
    // A list forgets the letters typed so far after a second without one, which a busy machine may take for a pause.
    await expect(async () => {
      await page.keyboard.type(letters);
      await expect(page.locator('[role=menuitem]:focus')).toHaveText(new RegExp(`^${letters}`), {
        timeout: 500,
      });
    }).toPass({ intervals: [1200] });
    await page.keyboard.press('Enter');
    await expect.poll(() => focused(page)).toMatch(next);
  };
  /** Goes on with Tab until a name is reached. */
  const tabTo = async (name: RegExp, back = false) => {
    for (let i = 0; i < 120; i++) {
      if (name.test(await focused(page))) return;
      await page.keyboard.press(back ? 'Shift+Tab' : 'Tab');
    }
    throw new Error(`${String(name)} cannot be reached`);
  };
  const write = async (name: RegExp, text: string) => {
    await tabTo(name, true);
    await page.keyboard.press('Control+a');
    await page.keyboard.type(text);
  };

  await tabTo(/^$|begin/);
  await page.getByRole('button', { name: 'Set the first port' }).focus();
  await page.keyboard.press('Enter');
  await expect.poll(() => focused(page)).toBe('grow at port 1');
  await grow('line', /^grow at line, pin 2$/);
  await grow('tee, ent', /^grow at tee, pin 1$/);

  for (const [arm, turn, side, number] of [
    ['line 2', '140 deg', 'tee, side arm right', '2'],
    ['line 4', '-140 deg', 'tee, side arm left', '3'],
  ]) {
    await grow('curved', new RegExp(`^grow at ${arm}, pin 2$`));
    await write(new RegExp(`^${arm}: turn$`), turn);
    await write(new RegExp(`^${arm}: impedance$`), '70.7107 ohm');
    await tabTo(new RegExp(`^grow at ${arm}, pin 2$`));
    const tee = number === '2' ? 'tee 2' : 'tee 3';
    await grow(side, new RegExp(`^grow at ${tee}, pin 2$`));
    await tabTo(new RegExp(`^grow at ${tee}, pin 3$`));
    const feed = number === '2' ? 'line 3' : 'line 5';
    await grow('line', new RegExp(`^grow at ${feed}, pin 2$`));
    await write(new RegExp(`^${feed}: impedance$`), '50 ohm');
    await tabTo(new RegExp(`^grow at ${feed}, pin 2$`));
    await grow('port', new RegExp(`port ${number}`));
    if (number === '2') await tabTo(/^grow at tee, pin 2$/, true);
  }
  await tabTo(/^grow at tee 2, pin 2$/, true);
  await grow('resistor', /^grow at resistor, pin 2$/);
  await grow('Join to tee 3', /^joint of/);

  await expect(review(page)).toContainText(/pads it joins are|Nothing to question/);
  await expect(page.getByRole('group', { name: /^waterline/ })).toContainText(/ideal10\.5/);
  const markers = page.getByRole('region', { name: 'Markers' });
  await expect(markers.getByRole('row').nth(1)).toContainText(/below|\u22121\d\d/);

  // Every growth is a step of its own, down to the empty board and up again.
  const pieces = await ledger(page).locator('[data-piece]').count();
  for (let i = 0; i < 60 && (await ledger(page).locator('[data-piece]').count()) > 0; i++)
    await page.keyboard.press('Control+z');
  await expect(ledger(page).locator('[data-piece]')).toHaveCount(0);
  for (let i = 0; i < 60 && (await ledger(page).locator('[data-piece]').count()) < pieces; i++)
    await page.keyboard.press('Control+y');
  await expect(ledger(page).locator('[data-piece]')).toHaveCount(pieces);
});

test('a branch-line ring is opened, questioned, closed by its lengths, retuned, and all of it undone', async ({
  page,
}) => {
  await openDemo(page);
  await nav(page, 'Recipes');
  await page.getByRole('link', { name: /Branch-line hybrid/ }).click();
  await expect(page.getByText(/through arms of z\u2080/)).toBeVisible();
  await page.getByRole('button', { name: 'Make the design' }).click();
  await expect(review(page)).toContainText('Nothing to question');
  const piece = (name: string) => page.getByRole('button', { name, exact: true });

  await test.step('a piece taken off dangles, and joining closes the ring again', async () => {
    await page
      .getByRole('button', { name: /^joint of through 4 to 3, pin 1/ })
      .or(page.getByRole('button', { name: /^joint of through 4 to 3/ }))
      .first()
      .click();
    await page.getByRole('menuitem', { name: 'Take through 4 to 3 off' }).click();
    await expect(review(page)).toContainText('through 4 to 3: pin');
    await expect(review(page)).toContainText('dangles');
    await page.getByRole('button', { name: /^grow at through 4 to 3/ }).click();
    await page.getByRole('menuitem', { name: /^Join to tee at port/ }).click();
    await expect(review(page)).toContainText('Nothing to question');
  });

  await test.step('three questions are provoked and settled by their remedies', async () => {
    await piece('through 4 to 3').click();
    await page.getByLabel('through 4 to 3: trim (follows)').fill('0.3 mm');
    await expect(review(page)).toContainText('The ring does not close');
    await review(page).getByRole('button', { name: 'Close it by lengths' }).click();
    await expect(review(page)).toContainText('Nothing to question');

    await piece('tee at port 2').click();
    await page.getByLabel('tee at port 2: arm 1 (follows)').fill('0.4 mm');
    await expect(review(page)).toContainText('arm 1 does not fit');
    await review(page).getByRole('button', { name: 'Let it fit' }).click();

    await piece('feed 1').click();
    await page.getByLabel('feed 1: length', { exact: true }).fill('5 mm');
    await page.getByLabel('value f0').fill('9 GHz');
    await expect(review(page)).toContainText('its length was set for 10.55');
    await review(page).getByRole('button', { name: 'It is meant so' }).click();
    await expect(review(page)).toContainText('Nothing to question');
    await page.getByLabel('value f0').fill('10.55 GHz');
  });

  await test.step('retuning tells before and after, and is one step', async () => {
    // What the tees radiate keeps it from standing exactly there.
    const back = /the centre stays|0\.0\d % (below|above) ideal/;
    await page.getByRole('button', { name: 'Retune' }).click();
    const dialog = page.getByRole('dialog', { name: 'Retuned' });
    await expect(dialog).toContainText('worst isolation', { timeout: 10_000 });
    await dialog.getByRole('button', { name: 'Take it' }).click();
    await expect(levels(page)).toContainText(back);
    await expect(page.getByRole('button', { name: 'Undo: retune' })).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(levels(page)).not.toContainText(back);
    await page.keyboard.press('Control+y');
    await expect(levels(page)).toContainText(back);
  });

  await test.step('a handle on the copper changes what is held, with the keyboard too', async () => {
    await piece('branch 2 to 3').click();
    const grip = page.getByRole('slider', { name: 'length of branch 2 to 3' });
    await grip.focus();
    await page.keyboard.press('ArrowRight');
    await expect(page.getByLabel('branch 2 to 3: electrical length', { exact: true })).toHaveValue(
      /^9[0-9]\.\d+ deg$/,
    );
  });

  await test.step('everything is undone', async () => {
    for (let i = 0; i < 80 && (await page.getByRole('button', { name: /^Undo: (?!make)/ }).count()) > 0; i++)
      await page.keyboard.press('Control+z');
    await expect(page.getByRole('button', { name: /^Undo: make/ })).toBeVisible();
    await expect(review(page)).toContainText('Nothing to question');
  });
});

test('a Wilkinson divider is copied, mirrored and compared with a checkpoint', async ({ page }) => {
  await openDemo(page);
  await nav(page, 'Recipes');
  await page.getByRole('link', { name: /Wilkinson divider/ }).click();
  await page.getByLabel('Sections').fill('2');
  await expect(page.getByText(/exact equal-ripple transformer/)).toBeVisible();
  await page.getByLabel('Band', { exact: true }).fill('nonsense');
  await expect(page.getByRole('button', { name: 'Make the design' })).toBeDisabled();
  await page.getByLabel('Band', { exact: true }).fill('4 GHz');
  await page.getByRole('button', { name: 'Make the design' }).click();
  await page.getByRole('button', { name: 'checkpoint' }).click();
  await expect(page.getByRole('button', { name: 'kept' })).toBeVisible();

  await test.step('plots are chosen, arranged and given formulas and limits', async () => {
    await page.getByRole('button', { name: 'Isolation: chart commands' }).click();
    await page.getByRole('menuitem', { name: 'Formulas on results' }).click();
    const dialog = page.getByRole('dialog', { name: 'Formulas and limits' });
    await dialog.getByLabel('formula 1', { exact: true }).fill('S21/S31 in ohm');
    await expect(dialog).toContainText('"ohm" is the unit of a resistance');
    await dialog.getByLabel('formula 1', { exact: true }).fill('S32 in dB');
    await dialog.getByRole('button', { name: 'add a limit' }).click();
    await dialog.getByLabel('level of the limit').fill('-15');
    await dialog.getByRole('button', { name: 'Done' }).click();
    await expect(page.getByRole('application', { name: 'formulas over frequency' })).toBeVisible();
    await page.getByRole('button', { name: 'Formulas: chart commands' }).click();
    await page.getByRole('menuitem', { name: 'Move left' }).click();
    await page.reload();
    const titles = page.locator('section h3');
    await expect(titles.first()).toHaveText('Formulas');
  });

  await test.step('a branch is copied to another pin, mirrored', async () => {
    await page.getByRole('button', { name: 'feed 2', exact: true }).click();
    await page.getByRole('button', { name: 'feed 2: what can be done' }).click();
    await page.getByRole('menuitem', { name: 'Copy it and what lies beyond' }).click();
    await page.getByRole('button', { name: 'feed 3', exact: true }).click();
    await page.keyboard.press('Delete');
    await page.getByRole('button', { name: 'port 3', exact: true }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Delete');
    await expect(review(page)).toContainText('dangles');
    await page.getByRole('button', { name: /^grow at tee at arm 3/ }).click();
    await page.getByRole('menuitem', { name: /Paste .*mirrored/ }).click();
    await expect(review(page)).toContainText('Nothing to question');
  });

  await nav(page, 'Project');
  await page.getByRole('link', { name: /^Compare with Checkpoint/ }).click();
  const differences = page.getByRole('region', { name: 'What differs' });
  await expect(differences).toContainText('feed 3 is gone');
  await expect(differences).toContainText('is new');
  await expect(page.getByRole('application', { name: /of both states over frequency/ })).toBeVisible();
});
