import { join } from 'node:path';
import sharp from 'sharp';
import { expect, test } from './fixtures';
import { addStep, bringIn, drag, expectShown, newShot, setNumber, settled, shownAt, stagePoint } from './helpers';

const harbour = join(process.cwd(), 'demo/media/sg010/harbour.png');

/** A third of the shot's size, one colour. */
const board = (): Promise<Buffer> =>
  sharp({ create: { width: 320, height: 180, channels: 3, background: { r: 200, g: 40, b: 40 } } })
    .png()
    .toBuffer();

test('handles stand where their step is seen: a crop before a conform, and before a later transform', async ({ page }) => {
  await newShot(page);
  await bringIn(page, [harbour]);
  await drag(page, page.getByTestId('source harbour'), page.getByTestId('board'));
  await bringIn(page, [{ name: 'board.png', mimeType: 'image/png', buffer: await board() }]);
  await drag(page, page.getByTestId('source board'), page.getByTestId('board'));
  const lane = page.getByTestId('lane board');
  await expect(lane.getByTestId('chip Conform')).toBeVisible();
  await expectShown(page, 100, 270, [200, 40, 40]);

  // A crop before the conform: its left edge is seen at the frame's, three times as far as it is cut.
  await lane.getByTestId('chip Conform').click();
  await addStep(page, 'Crop');
  const conform = (await lane.getByTestId('chip Conform').boundingBox())!;
  await drag(page, lane.getByTestId('chip Crop'), { x: conform.x - 7, y: conform.y + conform.height / 2 });
  await expect(lane.locator('.chip:not(.start)')).toHaveText(['Crop', 'Conform']);
  await settled(page);
  await drag(page, await stagePoint(page, 0, 270), await stagePoint(page, 240, 270));
  await expect(page.getByRole('textbox', { name: 'Left (px)' })).toHaveValue(/^(79|80|81)/);
  await expectShown(page, 300, 270, [200, 40, 40]);
  await expect(async () => expect((await shownAt(page, 200, 100))[0]!).toBeLessThan(120)).toPass();

  // With a transform behind, the same edge stands where that has put it: half as large, around the middle.
  await setNumber(page, 'Left (px)', 0);
  await lane.getByTestId('chip Conform').click();
  await addStep(page, 'Transform');
  await setNumber(page, 'Scale', 0.5);
  await lane.getByTestId('chip Crop').click();
  await settled(page);
  await drag(page, await stagePoint(page, 240, 270), await stagePoint(page, 480, 270));
  await expect(page.getByRole('textbox', { name: 'Left (px)' })).toHaveValue(/^(159|160|161)/);
  await expectShown(page, 600, 270, [200, 40, 40]);

  // The transform's own corner is dragged where it is seen, too, with another transform behind it.
  await lane.getByTestId('chip Transform').click();
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Add a step' }).fill('Transform');
  await page.keyboard.press('Enter');
  await expect(lane.getByTestId('chip Transform 2')).toBeVisible();
  await setNumber(page, 'Turn (°)', 90);
  await lane.getByTestId('chip Transform').click();
  await settled(page);
  await drag(page, await stagePoint(page, 480, 330), await stagePoint(page, 480, 390));
  // A quarter turn brings down on the stage to right in its own picture.
  await expect(page.getByRole('textbox', { name: 'Move x' })).toHaveValue(/^(59|60|61)/);
  await expect(page.getByRole('textbox', { name: 'Move y' })).toHaveValue(/^-?[01]\./);
});
