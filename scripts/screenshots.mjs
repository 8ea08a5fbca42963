// Makes the pictures of docs/screenshots anew from the demo project, at 1280x800.
import { fileURLToPath } from 'node:url';
import { openBrowser } from './browser.mjs';
import { setup } from './setup.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
await setup();
const port = 4497;
const { browser, close } = await openBrowser(port);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const at = (path) => page.goto(`http://127.0.0.1:${port}${path}`);
const keep = async (name) => {
  await page.mouse.move(1, 799);
  await page.waitForTimeout(600);
  await page.screenshot({ path: `${root}/docs/screenshots/${name}.png` });
};
try {
  await at('/');
  await page.getByRole('region', { name: 'Ledger of pieces' }).waitFor();
  await keep('design');
  await at('/p/ditchwater/lines');
  await keep('lines');
  await at('/p/ditchwater/recipes');
  await keep('recipes');
  await at('/p/ditchwater/recipes/wilkinson?sections=3');
  await keep('recipe');
  await at('/p/ditchwater/design/hybrid');
  await page.getByRole('button', { name: 'branch 2 to 3', exact: true }).click();
  await keep('hybrid');
  await at('/p/ditchwater/design/detector-match');
  await page.getByRole('button', { name: '2 attempts' }).click();
  await page.getByRole('checkbox', { name: 'draw open stub, near plane beside' }).check();
  await page.getByRole('button', { name: 'close', exact: true }).click();
  await page.waitForTimeout(600);
  await keep('tuning');
  await at('/p/ditchwater/recipes/single-stub?stub=short');
  await page.getByRole('checkbox', { name: 'lay open stub, near plane over the preview' }).check();
  await page.getByRole('checkbox', { name: 'lay one quarter wave over the preview' }).check();
  await keep('candidates');
  await at('/p/ditchwater/recipes/double-stub?load=10+ohm&spacing=90+deg');
  await page.getByRole('button', { name: 'one quarter wave' }).waitFor();
  await keep('forbidden');
  await at('/p/ditchwater/recipes/pi-section?q=2&values=e24');
  await page.getByRole('button', { name: 'one quarter wave' }).waitFor();
  await keep('section');
  await at('/p/ditchwater/design/bias-feed');
  await page.getByRole('button', { name: /quarter wave, pin 2 and tee at the stub/ }).press('Enter');
  await page.getByRole('menuitem', { name: 'Look into tee at the stub from here' }).click();
  await keep('bias-feed');
  await at('/p/ditchwater/design/lo-divider');
  await page.getByRole('button', { name: 'joint of arm 2, pin 2 and tee at arm 2, pin 1' }).click();
  await keep('growing');
  await page.keyboard.press('Escape');
  await at('/p/ditchwater');
  await keep('project');
  await page.getByRole('link', { name: /^Compare with Designs as/ }).click();
  await keep('compare');
  await at('/projects');
  await keep('projects');
  await at('/help');
  await keep('help');
  await page.emulateMedia({ colorScheme: 'dark' });
  await at('/p/ditchwater/design/telemetry-match');
  await page.getByRole('button', { name: 'section 2', exact: true }).click();
  await keep('design-dark');
} finally {
  await close();
}
