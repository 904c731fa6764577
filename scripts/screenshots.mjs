// npm run screenshots: one PNG of each main view from the demo film into docs/screenshots. Starts the built application by itself.
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { chromiumOptions } from './chromium.mjs';
import { root } from './stages.mjs';

const port = 3299;
const out = join(root, 'docs/screenshots');
mkdirSync(out, { recursive: true });
const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '-p', String(port)], { cwd: root, stdio: 'ignore' });
const url = `http://localhost:${port}/`;
while (
  !(await fetch(url).then(
    (r) => r.ok,
    () => false,
  ))
)
  await new Promise((done) => setTimeout(done, 100));

const browser = await chromium.launch(chromiumOptions);
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const take = (name) => page.screenshot({ path: join(out, `${name}.png`) });
  /** The stage is at full size, and the small pictures have had their turn. */
  const settled = async () => {
    await page.locator('[data-testid="stage"] > canvas[data-scale="1"]').waitFor();
    await page.waitForFunction(() => !document.querySelector('.busy'));
    await page.waitForTimeout(4000);
  };
  await page.goto(url);
  await page.getByTestId('shot SG010 keeper').locator('img').waitFor({ timeout: 60_000 });
  await page.waitForFunction(() => !document.body.textContent.includes('Bringing in'));
  await take('library');
  await page.getByTestId('shot SG010 keeper').click();
  await settled();
  await page.getByTestId('chip Place').click();
  await settled();
  await take('workbench-composite');
  // The matte audit with its counts, and the key's picture set against the composite by a turned wipe.
  await page.getByTestId('chip Screen key').click();
  await page.keyboard.press('v');
  await page.getByRole('button', { name: 'Audit' }).click();
  await settled();
  await take('audit');
  await page.locator('.picturebar .pill', { hasText: /^Colour$/ }).click();
  await page.keyboard.press('Alt+Shift+1');
  await page.keyboard.press('v');
  await page.keyboard.press('Shift+C');
  const grip = await page.getByRole('button', { name: 'Turn the wipe' }).boundingBox();
  await page.mouse.move(grip.x + 5, grip.y + 5);
  await page.mouse.down();
  await page.mouse.move(grip.x - 30, grip.y - 4, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.press('Shift+F');
  await settled();
  await page.keyboard.press('Shift+C');
  await page.keyboard.press('Shift+F');
  await page.getByRole('tab', { name: 'Scopes' }).click();
  await settled();
  await take('scopes');
  await page.getByRole('tab', { name: 'Lanes' }).click();
  await page.getByTestId('chip Place').click();
  await page.getByRole('tab', { name: 'Curves' }).click();
  const goTo = async (frame) => {
    await page.getByRole('textbox', { name: 'Frame', exact: true }).fill(String(frame));
    await page.getByRole('textbox', { name: 'Frame', exact: true }).press('Enter');
  };
  for (const [frame, x] of [
    [6, -40],
    [20, 12],
    [40, 36],
  ]) {
    await goTo(frame);
    if (frame === 6) await page.getByRole('button', { name: 'Key of Move' }).click();
    const field = page.getByRole('textbox', { name: 'Move x', exact: true });
    await field.fill(String(x));
    await field.press('Enter');
  }
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await page.getByRole('button', { name: 'Key at 20' }).click();
  await settled();
  await take('curves');
  await page.getByRole('tab', { name: /^Notes/ }).click();
  await page.getByRole('button', { name: 'Note at frame 40' }).click();
  await page.getByLabel('Text of the note at 40').fill('The hem of the cape boils: hold the edge key there');
  await goTo(12);
  await page.getByRole('button', { name: 'Note at frame 12' }).click();
  await page.getByLabel('Text of the note at 12').fill('Lantern a third of a stop brighter?');
  await page.getByRole('button', { name: 'Pin it to the picture' }).first().click();
  const stage = await page.getByTestId('place note').boundingBox();
  await page.mouse.click(stage.x + stage.width * 0.62, stage.y + stage.height * 0.6);
  await settled();
  await page.getByRole('tab', { name: 'Lanes' }).click();
  const reading = async (shot, name, frame) => {
    await page.getByRole('link', { name: 'Library' }).click();
    await page.getByTestId(`shot ${shot}`).click();
    await settled();
    await page
      .getByRole('tab', { name: /^Readings/ })
      .first()
      .click();
    await page.getByTestId(`reading ${name}`).click();
    await goTo(frame);
    await settled();
  };
  await reading('SG020 chart table', 'The panel', 26);
  await take('plane');
  await reading('SG070 lens chart', 'The slipway lens', 2);
  await page.getByRole('button', { name: 'Straightened' }).click();
  await page.getByRole('tab', { name: 'Readings', exact: true }).last().click();
  await settled();
  await take('lens');
  await reading('SG050 slipway', 'The dolly', 70);
  await take('camera');
  // A thing of its scene, chosen on the picture that it stands in; then the room.
  await page.getByTestId('chip fog over').click();
  await page.keyboard.press('v');
  await settled();
  await page.getByTestId('chip Marker and sign').click();
  await page.getByTestId('part Brass marker').getByRole('button', { name: 'Brass marker' }).first().click();
  await settled();
  await take('things');
  await page.getByTestId('chip Fog in depth').click();
  await page.getByTestId('part Middle bank').getByRole('button', { name: 'Middle bank' }).first().click();
  await page.getByRole('button', { name: 'See the room' }).click();
  await page.waitForTimeout(6000);
  await take('room');
  await page.getByRole('button', { name: 'See the picture' }).click();
  await reading('SG060 mooring', 'The painted seven', 34);
  await page.getByRole('tab', { name: 'Readings', exact: true }).last().click();
  await settled();
  await take('tracking');
  await page.getByRole('link', { name: 'Library' }).click();
  await page.getByTestId('shot SG030 brass diver').click();
  await settled();
  await page.getByTestId('chip Lamp behind the bollard').click();
  await page.keyboard.press('v');
  await settled();
  await page.getByRole('button', { name: 'Probe' }).click();
  const lit = await page.getByTestId('stage').boundingBox();
  await page.mouse.click(lit.x + 0.5 * lit.width, lit.y + 0.44 * lit.height);
  await page.getByTestId('share diffuse').waitFor();
  await take('workbench-passes');
  await page.getByRole('status', { name: 'Probe' }).getByRole('button', { name: 'Close' }).click();
  // An element beside the plate around it.
  await page.goto(url);
  await page.getByTestId('shot SG080 reflection').click();
  await settled();
  await page.getByTestId('chip Bright sky behind').click();
  await page.getByRole('tab', { name: 'Meter' }).click();
  await page.getByRole('button', { name: 'Read', exact: true }).click();
  await page.getByTestId('meter').waitFor({ timeout: 60_000 });
  await settled();
  await take('meter');
  // A mark hidden by a zone, and the coat's outline in front of it.
  await page.goto(url);
  await page.getByTestId('shot SG040 harbour wall').click();
  await settled();
  await page.getByTestId('zone Company mark').locator('.zone-name').click();
  await page.getByRole('listitem', { name: 'Mark' }).click();
  await settled();
  await take('zone');
  await page.getByTestId('chip Passers by hand').click();
  await page.getByRole('listitem', { name: 'Checked coat', exact: true }).click();
  await settled();
  await take('roto');
  // The box that went: its patch, and the light of it as a curve.
  await page.getByTestId('chip Patch').click();
  await page.getByRole('listitem', { name: 'Outline' }).click();
  await page.getByRole('tab', { name: 'Curves' }).click();
  await settled();
  await take('removed');
  await page.getByRole('tab', { name: 'Lanes' }).click();
  // Strokes that follow the wall.
  await page.getByTestId('chip Passers in front').click();
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Add a step' }).fill('Paint');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Brush on the stage' }).click();
  await page.getByRole('group', { name: 'Brushes' }).getByRole('button', { name: 'Clone' }).click();
  await page.getByRole('combobox', { name: 'New strokes follow' }).click();
  await page.getByRole('option', { name: 'The wall' }).click();
  await page.waitForTimeout(500);
  const at = async (x, y) => {
    const b = await page.getByTestId('stage').boundingBox();
    return [b.x + b.width * x, b.y + b.height * y];
  };
  await page.keyboard.down('Alt');
  await page.mouse.click(...(await at(0.5, 0.33)));
  await page.keyboard.up('Alt');
  for (const y of [0.36, 0.41]) {
    await page.mouse.move(...(await at(0.22, y)));
    await page.mouse.down();
    await page.mouse.move(...(await at(0.3, y + 0.01)), { steps: 8 });
    await page.mouse.up();
    await page.waitForTimeout(1500);
  }
  await page.mouse.move(...(await at(0.24, 0.5)));
  await settled();
  await take('paint');
  // A lesson while it is trained: its frames, what it makes of them, the stage with what it makes of this one.
  await reading('SG010 green coat', 'Coat', 33);
  await page
    .getByRole('tab', { name: /^Readings/ })
    .last()
    .click();
  await page.getByRole('checkbox', { name: 'Hold back frame 30' }).check();
  await page.getByRole('button', { name: 'Look at some' }).click();
  await page.getByLabel('Variation 1', { exact: true }).waitFor({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Go on training' }).click();
  await page.getByRole('combobox', { name: 'On the stage' }).click();
  await page.getByRole('option', { name: 'What it makes of it' }).click();
  await page.getByText('Overlay', { exact: true }).click();
  await page.getByLabel('Frame 6, now').first().waitFor({ timeout: 120_000 });
  await page.waitForTimeout(12_000);
  await take('lesson');
} finally {
  await browser.close();
  server.kill();
}
