import { randomUUID } from 'node:crypto';
import { expect, test, type Locator, type Page } from '@playwright/test';
import type { Session } from '../core/session/types';
import { newDesk } from '../core/surface/desk/desk';
import { keyboardController } from '../core/surface/stands/keyboard';
import { plugIn } from './midi';
import { app, document, openDemo } from './app';

const desks: string[] = [];
const profiles: string[] = [];
test.afterEach(async ({ page, request }) => {
  // A page that is open keeps its desk, a moment after it was last changed: it would be there again.
  await page.close();
  for (const id of desks.splice(0)) await request.delete(`${app().base}/api/desks/${id}`);
  for (const id of profiles.splice(0)) await request.delete(`${app().base}/api/surface-profiles/${id}`);
});

/** Opens the demo with a keyboard controller plugged in of which nothing is known. */
async function withKeyboard(page: Page) {
  const made = newDesk(`e2e-${randomUUID()}`, 'Desk under test', [keyboardController]);
  const desk = {
    ...made,
    units: [
      {
        ...made.units[0]!,
        profile: '',
        connection: { type: 'simulated', device: keyboardController.id },
      },
    ],
  };
  desks.push(desk.id);
  expect((await page.request.put(`${app().base}/api/desks/${desk.id}`, { data: desk })).status()).toBe(200);
  await page.addInitScript((id) => localStorage.setItem('zonula.desk', id), desk.id);
  await openDemo(page);
  await page.getByRole('link', { name: 'Surface' }).click();
  await expect(page.locator('[data-unit="unit-1"]')).toBeVisible();
}
const on = (page: Page, kind: 'Fader' | 'Encoder', i: number) =>
  page.locator('[data-unit="unit-1"]').getByRole('slider', { name: new RegExp(`^${kind} ${i}:`) });
/** One touch: pushed from the bottom to the top. */
async function sweep(page: Page, control: Locator, up = 150) {
  const box = (await control.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height - 4];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y - up, { steps: 10 });
  await page.mouse.up();
}
const row = (page: Page, name: string) =>
  page.locator('[data-control]').filter({ has: page.getByText(name, { exact: true }) });
const strips = async (page: Page) =>
  new Map(((await document(page)) as unknown as Session).strips.map((s) => [s.id, s]));
const lies = async (page: Page) =>
  page
    .locator('[data-unit="unit-1"]')
    .getByRole('slider', { name: /^Fader/ })
    .evaluateAll((all) => all.map((e) => e.getAttribute('aria-label')!));

test('a controller that nobody planned for is learned in eighteen touches and four clicks, and works by banks of eight', async ({
  page,
}) => {
  await withKeyboard(page);
  let [touches, clicks] = [0, 0];
  const click = async (name: string) => {
    await page.getByRole('button', { name, exact: true }).click();
    clicks++;
  };
  const kept = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/surface-profiles/'));

  await click('Learn');
  for (let i = 1; i <= 8; i++) {
    await sweep(page, on(page, 'Fader', i));
    touches++;
  }
  await expect(page.getByText('8 found')).toBeVisible();
  await click('Next: knobs');
  for (let i = 1; i <= 8; i++) {
    await sweep(page, on(page, 'Encoder', i), 200);
    touches++;
  }
  await expect(page.getByText('8 found')).toBeVisible();
  // Somebody plays on it meanwhile: that is no control.
  await page.locator('[data-unit="unit-1"]').getByRole('button', { name: 'Key note3: nothing yet' }).click();
  await click('Next: keys');
  for (const id of ['left', 'right']) {
    await page
      .locator('[data-unit="unit-1"]')
      .getByRole('button', { name: `Key ${id}: nothing yet` })
      .click();
    touches++;
  }
  await expect(page.getByText('2 found')).toBeVisible();
  await expect(page.locator('[data-control]')).toHaveCount(18);
  await click('Done');
  profiles.push(((await kept).postDataJSON() as { id: string }).id);
  expect([touches, clicks]).toEqual([18, 4]);

  const names = async () => (await lies(page)).map((l) => l.replace(/^Fader \d: /, ''));
  // Eight strips lie under them, each its own, as soon as what was learned is put to work.
  await expect.poll(async () => new Set(await names()).size).toBe(8);
  const first = await names();
  // The faders stand at the top, and jump nowhere; the strips are where they were.
  const before = await strips(page);
  await page.locator('[data-unit="unit-1"]').getByRole('button', { name: 'Bank right' }).click();
  await expect.poll(names).not.toEqual(first);
  await page.locator('[data-unit="unit-1"]').getByRole('button', { name: 'Bank left' }).click();
  await expect.poll(names).toEqual(first);
  expect(await strips(page)).toEqual(before);

  // Down through its level it takes hold of it.
  await sweep(page, on(page, 'Fader', 1), -10);
  const box = (await on(page, 'Fader', 1).boundingBox())!;
  await page.mouse.move(box.x + 8, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 8, box.y + box.height * 0.7, { steps: 30 });
  await page.mouse.up();
  await expect
    .poll(async () =>
      [...(await strips(page)).values()]
        .filter((s) => s.faderDb !== before.get(s.id)!.faderDb)
        .map((s) => s.name),
    )
    .toEqual([first[0]!.replace('level ', '')]);
  // The Sheet marks what lies under it.
  await page.getByRole('link', { name: 'Sheet' }).click();
  await expect(page.locator('[id="cell-skin-cap"]')).toHaveAttribute(
    'aria-label',
    /under the faders of unit 1/,
  );
});

test('what a control is for is chosen by touching it on the page; it is turned round, left out, kept, changed and made anew', async ({
  page,
}) => {
  await withKeyboard(page);
  await page.getByRole('button', { name: 'Learn', exact: true }).click();
  for (const i of [1, 2]) await sweep(page, on(page, 'Fader', i));
  await expect(page.locator('[data-control]')).toHaveCount(2);
  await page.getByRole('button', { name: 'Choose for fader 2 by touching it on the page' }).click();
  await page.getByRole('link', { name: 'Sheet' }).click();
  const handle = page.locator('[data-strip="lead-vox"] .handle, [data-strip] .handle').first();
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 6, box.y + 10, { steps: 3 });
  await page.mouse.up();
  await page.getByRole('link', { name: 'Surface' }).click();
  await expect(row(page, 'fader 2')).toContainText('Level, of ');
  await page.getByRole('button', { name: 'Turn fader 1 round' }).click();
  await expect(page.getByRole('button', { name: 'Turn fader 1 round' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.getByRole('textbox', { name: 'Name of the device' }).fill('Little box');
  const kept = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/surface-profiles/'));
  await page.getByRole('button', { name: 'Done', exact: true }).click();
  const made = (await kept).postDataJSON() as {
    id: string;
    name: string;
    controls: Record<string, unknown>[];
  };
  profiles.push(made.id);
  expect(made.name).toBe('Little box');
  expect(made.controls).toMatchObject([
    { kind: 'fader', reversed: true, steers: null },
    { kind: 'fader', steers: { what: 'level', of: 'strip' } },
  ]);
  // It is there again when the page is opened anew, and can be changed and made anew.
  await expect(page.locator('[data-control]')).toHaveCount(0);
  await page.waitForResponse((r) => r.request().method() === 'PUT' && r.url().includes('/api/desks/'));
  await page.reload();
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  const again = page.waitForRequest(
    (r) => r.method() === 'PUT' && r.url().includes('/api/surface-profiles/'),
  );
  await page.getByRole('button', { name: 'Duplicate' }).click();
  const second = (await again).postDataJSON() as { id: string };
  profiles.push(second.id);
  expect(second).toMatchObject({ name: 'Little box, second', controls: made.controls });
  await page.getByRole('button', { name: 'Change what it does' }).click();
  await page.getByRole('button', { name: 'Leave fader 2 out' }).click();
  const changed = page.waitForRequest(
    (r) => r.method() === 'PUT' && r.url().includes('/api/surface-profiles/'),
  );
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  expect((await changed).postDataJSON()).toMatchObject({ id: second.id, width: 1 });
});

test('what the last hours cost in presses is shown, a layout that costs less is taken in one step, and taken back', async ({
  page,
}) => {
  await openDemo(page);
  const id = /\/session\/([^/]+)/.exec(page.url())![1]!;
  const state = (await (await page.request.get(`${app().base}/api/sessions/${id}/state`)).json()) as {
    revision: number;
    document: Session;
  };
  const ids = state.document.strips.map((s) => s.id);
  // Somebody goes back and forth between strips that lie far apart.
  for (let k = 0; k < 24; k++)
    await page.request.post(`${app().base}/api/sessions/${id}/commits`, {
      data: {
        revision: state.revision + k,
        changeId: randomUUID(),
        label: 'trim',
        commands: [{ type: 'strip.set', id: [ids[0], ids[20], ids[9]][k % 3], patch: { trimDb: -k / 10 } }],
      },
    });
  await page.getByRole('link', { name: 'Surface' }).click();
  await page.getByRole('button', { name: 'Use', exact: true }).click();
  await expect(page.getByText(/Strips reached for: \d+/)).toContainText(/it would be 0/);
  await expect(
    page.getByRole('img', { name: 'Presses for the ten strips that were reached for most' }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Lay the desk out so' }).click();
  await expect(page.locator('[data-part="reach"]').first()).toContainText('LAYOUT By use');
  await expect
    .poll(async () => ((await document(page)) as unknown as Session).layouts.map((l) => l.name))
    .toEqual(['By use']);
  await expect(page.getByText(/No other order that was tried costs less/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => ((await document(page)) as unknown as Session).layouts).toEqual([]);
});

test('a device on a MIDI port is learned: the one that is moved, not the one whose clock runs; it is there again when it comes back', async ({
  page,
}) => {
  const midi = await plugIn(page, { drum: 'Drum box', one: 'Little mixer', two: 'Little mixer' });
  const desk = newDesk(`e2e-${randomUUID()}`, 'Desk under test', []);
  desks.push(desk.id);
  await page.request.put(`${app().base}/api/desks/${desk.id}`, { data: desk });
  await page.addInitScript((id) => localStorage.setItem('zonula.desk', id), desk.id);
  await openDemo(page);
  await page.getByRole('link', { name: 'Surface' }).click();
  await page.getByRole('button', { name: 'Learn', exact: true }).click();
  await expect(page.getByText('Learning a device: the first one that speaks')).toBeVisible();
  // A clock, and a sensing that somebody is there, are no hands.
  await midi((m) => {
    for (let k = 0; k < 48; k++) m.say('drum', [0xf8]);
    m.say('drum', [0xfe]);
  });
  await midi((m) => {
    for (let k = 0; k < 4; k++) for (let v = 0; v <= 127; v += 3) m.say('two', [0xe0 + k, (v * 7) & 127, v]);
    for (let k = 0; k < 24; k++) m.say('drum', [0xf8]);
  });
  await expect(page.getByRole('heading', { name: 'Learning Little mixer' })).toBeVisible();
  await expect(page.getByText('4 found')).toBeVisible();
  await page.getByRole('button', { name: 'Next: knobs' }).click();
  await midi((m) => {
    for (let k = 0; k < 2; k++) for (const v of [1, 1, 2, 1, 65, 65, 66]) m.say('two', [0xb0, 16 + k, v]);
  });
  await expect(page.getByText('2 found')).toBeVisible();
  await expect(page.locator('[data-control="control 1 16"]').getByText('encoder, sign bit')).toBeVisible();
  const kept = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/surface-profiles/'));
  const laid = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/desks/'));
  await page.getByRole('button', { name: 'Done', exact: true }).click();
  const made = (await kept).postDataJSON() as { id: string };
  profiles.push(made.id);
  expect((await laid).postDataJSON()).toMatchObject({
    units: [{ profile: made.id, connection: { type: 'midi', input: 'Little mixer', nth: 1 } }],
  });
  const level = async () => [...(await strips(page)).values()][1]!.faderDb;
  const before = await level();
  const sweep = () =>
    midi((m) => {
      for (let v = 0; v <= 127; v++) m.say('two', [0xe1, 0, v]);
    });
  await sweep();
  await expect.poll(level).toBe(12);
  await page.keyboard.press('Control+z');
  await expect.poll(level).toBe(before);
  // The other device of that name is not heard; pulled out and plugged in again, this one is.
  await midi((m) => m.pull('two'));
  await expect(page.getByText(/has gone away/)).toBeVisible();
  await midi((m) => m.plug('two', 'Little mixer'));
  // What is moved before the port is open again is not heard: a hand moves it once more.
  await expect
    .poll(async () => {
      await sweep();
      return level();
    })
    .toBe(12);
});
