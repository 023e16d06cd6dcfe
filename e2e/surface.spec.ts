import { createSocket } from 'node:dgram';
import { randomUUID } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import type { Desk } from '../core/surface/desk/desk';
import { newDesk } from '../core/surface/desk/desk';
import type { Session } from '../core/session/types';
import { standIns } from '../core/surface/stands/stands';
import { plugIn } from './midi';
import { app, choose, document, openDemo, pick, pictures, played, saved, undoLabel } from './app';

const [one, faders, encoders] = standIns;
const made: string[] = [];
test.afterEach(async ({ request }) => {
  for (const id of made.splice(0)) await request.delete(`${app().base}/api/desks/${id}`);
});

/** Opens the demo with a desk of its own, in the Surface view. */
async function withDesk(page: Page, units: typeof standIns, more: Partial<Desk> = {}) {
  const desk = { ...newDesk(`e2e-${randomUUID()}`, 'Desk under test', units), ...more };
  made.push(desk.id);
  expect((await page.request.put(`${app().base}/api/desks/${desk.id}`, { data: desk })).status()).toBe(200);
  await page.addInitScript((id) => localStorage.setItem('zonula.desk', id), desk.id);
  await openDemo(page);
  await surfaceView(page);
}
async function surfaceView(page: Page) {
  await page.getByRole('link', { name: 'Surface' }).click();
  await expect(page.locator('[data-unit]').first()).toBeVisible();
}
const three = [faders!, faders!, encoders!];
const unit = (page: Page, n: number) => page.locator(`[data-unit="unit-${n}"]`);
const key = (page: Page, n: number, name: string) => unit(page, n).getByRole('button', { name, exact: true });
const shows = (page: Page, n: number, part: 'page' | 'reach') =>
  unit(page, n).locator(`[data-part="${part}"]`);
const nameOf = (page: Page, n: number, position: number) =>
  unit(page, n).locator(`[data-part="name"][data-position="${position}"]`).first();
const fader = (page: Page, n: number, i: number) =>
  unit(page, n).getByRole('slider', { name: new RegExp(`^Fader ${i}:`) });
const encoder = (page: Page, n: number, i: number, row: number) =>
  unit(page, n).getByRole('slider', { name: new RegExp(`^Encoder ${i} of row ${row}:`) });
/** Drags something by so many pixels upwards. */
async function drag(page: Page, on: ReturnType<typeof fader>, up: number) {
  const box = (await on.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 - up, { steps: 5 });
  await page.mouse.up();
}
const strips = async (page: Page) =>
  new Map(((await document(page)) as unknown as Session).strips.map((s) => [s.id, s]));

test('three simulated units are set up in two steps: sixteen faders and 32 encoders; parted and joined, nothing is lost', async ({
  page,
}) => {
  await openDemo(page);
  await surfaceView(page);
  const kept = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/desks/'));
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  await page.getByRole('button', { name: 'Three simulated units' }).click();
  made.push(((await kept).postDataJSON() as Desk).id);
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  await expect(page.getByRole('slider', { name: /^Fader/ })).toHaveCount(16);
  await expect(page.getByRole('slider', { name: /^Encoder/ })).toHaveCount(32);
  for (const n of [1, 2, 3])
    await expect(unit(page, n).getByText('simulated', { exact: true })).toBeVisible();
  await expect(shows(page, 1, 'reach')).toHaveText('ALL 1-16 of 38');
  // All of it is on the screen at once.
  const face = (await unit(page, 3).boundingBox())!;
  expect(face.y + face.height).toBeLessThanOrEqual(800 - 56 + 1);

  await page.keyboard.press('Shift+J');
  await expect(shows(page, 1, 'reach')).toHaveText('ALL 1-8 of 38 APART');
  await key(page, 2, 'Bank right').click();
  await expect(shows(page, 2, 'reach')).toHaveText('ALL 17-24 of 38 APART');
  await key(page, 1, 'Nudge right').click();
  await key(page, 1, 'Join and part').click();
  await expect(shows(page, 2, 'reach')).toHaveText('ALL 1-16 of 38');
  await key(page, 1, 'Bank right').click();
  await key(page, 1, 'Join and part').click();
  await expect(shows(page, 1, 'reach')).toHaveText('ALL 2-9 of 38 APART');
  await expect(shows(page, 2, 'reach')).toHaveText('ALL 17-24 of 38 APART');

  // The Sheet tells which strips lie under which unit, and the desk works while it is shown.
  await page.keyboard.press('1');
  await expect(page.locator('[id="cell-rim-cap"] .hands')).toHaveText('1');
  await expect(page.locator('[id="cell-rim-cap"]')).toHaveAttribute(
    'aria-label',
    /under the faders of unit 1/,
  );
  await page.keyboard.press('Shift+J');
  await expect(page.locator('[id="cell-rim-cap"] .hands')).toHaveCount(0);
  await page.keyboard.press('Alt+[');
  await expect(page.locator('[id="cell-skin-cap"] .hands')).toHaveText('1');
  // Loaded anew, the desk is as it was left.
  await page.reload();
  await surfaceView(page);
  await expect(unit(page, 3)).toBeVisible();
});

test('pins stay when the window moves; reaches by keys of the desk and of the page, told on the display', async ({
  page,
}) => {
  await withDesk(page, three);
  await page.keyboard.press('1');
  await pick(page, 'lead-voice');
  await page.keyboard.press('4');
  await key(page, 1, 'Pin to the left').click();
  await expect(undoLabel(page)).toHaveText('pin Lead voice to the left');
  await expect(nameOf(page, 1, 0)).toHaveText('LeaVoic');
  await key(page, 1, 'Bank right').click();
  await expect(nameOf(page, 1, 0)).toHaveText('LeaVoic');
  await expect(nameOf(page, 1, 1)).not.toHaveText('FrDrSki');
  // The main output to the right; with the units apart, another of one unit alone.
  await page.keyboard.press('1');
  await pick(page, 'main');
  await page.keyboard.press('4');
  await key(page, 2, 'Pin to the right').click();
  await expect(nameOf(page, 2, 7)).toHaveText('Main');
  await page.keyboard.press('Shift+J');
  await unit(page, 2)
    .getByRole('button', { name: /^Pick 1,/ })
    .click();
  await key(page, 2, 'Pin to the left').click();
  const kept = (await nameOf(page, 2, 0).textContent())!;
  await key(page, 2, 'Bank right').click();
  await expect(nameOf(page, 2, 0)).toHaveText(kept);
  await expect(nameOf(page, 1, 0)).toHaveText('LeaVoic');
  await page.keyboard.press('Shift+J');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect(nameOf(page, 1, 0)).not.toHaveText('LeaVoic');
  await page.keyboard.press('1');
  await pick(page, 'lead-voice');
  await page.keyboard.press('4');

  await key(page, 1, 'Path of the picked strip').click();
  await expect(shows(page, 1, 'reach')).toHaveText(/^PATH Lead voice 1-\d of \d$/);
  await page.keyboard.press('Shift+F6');
  await expect(shows(page, 1, 'reach')).toHaveText(/^ALL/);
  await page.keyboard.press('Shift+F8');
  await expect(shows(page, 1, 'reach')).toHaveText(/^FAMILY Lead/);
  await choose(page, 'Reach', /^With material in the loop/);
  await expect(shows(page, 1, 'reach')).toHaveText(/^IN LOOP/);
  await choose(page, 'Reach', /^Sounding at the playhead/);
  await expect(shows(page, 1, 'reach')).toHaveText(/^NOW/);
  // The song goes on, and the window with it.
  await page.getByRole('button', { name: 'Play', exact: true }).first().click();
  await played(page, 0.7);
  await page.getByRole('button', { name: 'Stop', exact: true }).first().click();
  await page.keyboard.press('Shift+F1');

  // A VCA lies under a fader, and opens what it holds.
  await page.keyboard.press('Alt+[');
  const vca = unit(page, 1).getByRole('slider', { name: /^Fader 7: level Rhythm/ });
  await expect(vca).toBeVisible();
  await unit(page, 1).getByRole('button', { name: 'Pick 7, Rhythm' }).click();
  await key(page, 1, 'Fan of the picked strip').click();
  await expect(shows(page, 1, 'reach')).toHaveText(/^FAN Rhythm/);
  await fader(page, 1, 1).press('ArrowDown');
  await expect(undoLabel(page)).toHaveText('level Rhythm');
});

test('encoders along an equalizer, with a second function and pushes; the page follows the hands, a lock keeps them', async ({
  page,
}) => {
  await withDesk(page, three);
  await page.keyboard.press('1');
  await pick(page, 'lead-voice');
  await page.keyboard.press('4');
  await key(page, 3, 'Equalizer').click();
  await expect(shows(page, 3, 'page')).toHaveText(/^EQ Lead voice/);
  const gain = encoder(page, 3, 3, 3);
  await expect(gain).toHaveAttribute('aria-label', /bell 3 gain of Equalizer, Lead voice/);
  await gain.press('ArrowRight');
  await saved(page);
  await expect(undoLabel(page)).toHaveText('bell 3 gain of Equalizer, Lead voice');
  await gain.press('Enter');
  await expect(gain).toHaveAttribute('aria-valuetext', '0.0 dB');
  await page.keyboard.press('Control+z');
  // Held *second*: a key that stays down by Shift.
  await key(page, 3, 'Second').click({ modifiers: ['Shift'] });
  const q = encoder(page, 3, 2, 3);
  const name = unit(page, 3).locator('[data-part="name"][data-position="1"][data-row="2"]');
  await expect(name).toHaveText(/q/i);
  await q.press('ArrowRight');
  await key(page, 3, 'Second').click();
  await expect(undoLabel(page)).toHaveText('bell 3 q of Equalizer, Lead voice');
  // The editor of what is under the hands is open beside the Sheet.
  await page.keyboard.press('1');
  await expect(page.getByRole('complementary').getByText('Equalizer').first()).toBeVisible();
  await page.keyboard.press('4');
  await key(page, 3, 'Lock').click();
  await unit(page, 1)
    .getByRole('button', { name: /^Pick 1,/ })
    .click();
  await expect(shows(page, 3, 'page')).toHaveText(/^LOCK EQ Lead voice/);
  await key(page, 3, 'Lock').click();
  await expect(shows(page, 3, 'page')).toHaveText('Frame drum skin has no Equalizer');
  await key(page, 3, 'Columns').click();
  await expect(shows(page, 3, 'page')).toHaveText(/^Columns EQ/);
});

test("a return's sends lie across the faders, and a swell of one is written as automation", async ({
  page,
}) => {
  await withDesk(page, three);
  await page.keyboard.press('1');
  await pick(page, 'plate');
  await page.keyboard.press('4');
  await key(page, 1, 'Sends of this return across the faders').click();
  await expect(shows(page, 1, 'page')).toHaveText('FLIP Send 1/2 Plate');
  const send = unit(page, 1).getByRole('slider', { name: 'Fader 1: send Frame drum skin to Plate' });
  await expect(send).toBeVisible();
  await drag(page, send, 30);
  await saved(page);
  const before = (await strips(page)).get('skin')!;
  expect(before.sends[0]!.levelDb).toBeGreaterThan(-19);
  expect(before.faderDb).toBe(-6);
  // Touch on this strip alone: the mode key held while its fader is touched.
  await key(page, 1, 'Mode touch').click({ modifiers: ['Shift'] });
  await unit(page, 1).getByRole('button', { name: 'Pick 1, Frame drum skin' }).click();
  await key(page, 1, 'Mode touch').click();
  await expect(undoLabel(page)).toHaveText('automation touch, Frame drum skin');
  await expect(unit(page, 1).locator('[data-part="mode"][data-position="0"]')).toHaveText('TCH');
  await page.getByRole('button', { name: 'Play', exact: true }).first().click();
  await played(page, 0.5);
  const box = (await send.boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 10, box.y + box.height / 2 + 25, { steps: 6 });
  await expect(unit(page, 1).locator('[data-part="mode"][data-position="0"]')).toHaveText('*TCH');
  await page.mouse.up();
  await page.getByRole('button', { name: 'Stop', exact: true }).first().click();
  await saved(page);
  const lane = (await strips(page)).get('skin')!.sends[0]!.lanes.level!;
  expect(lane.length).toBeGreaterThan(2);
  await key(page, 1, 'Sends of this return across the faders').click();
  await expect(shows(page, 1, 'page')).toHaveText('Send 1/2 Plate');
});

test('modes for the picked and for all, default, hide by holding, show, link: from the keys of the desk', async ({
  page,
}) => {
  await withDesk(page, [faders!]);
  await unit(page, 1)
    .getByRole('button', { name: /^Pick 1,/ })
    .click();
  await key(page, 1, 'Second').click({ modifiers: ['Shift'] });
  await unit(page, 1)
    .getByRole('button', { name: /^Pick 3,/ })
    .click();
  await key(page, 1, 'Second').click();
  // The modifier and the reach of the same name are two keys.
  const held = unit(page, 1).getByRole('button', { name: 'Picked', exact: true }).nth(1);
  await held.click({ modifiers: ['Shift'] });
  await unit(page, 1)
    .getByRole('button', { name: /^Automation mode 1,/ })
    .click();
  await held.click();
  await expect(undoLabel(page)).toHaveText('automation touch, 2 strips');
  await key(page, 1, 'Default').click({ modifiers: ['Shift'] });
  await fader(page, 1, 2).click();
  await key(page, 1, 'Default').click();
  await saved(page);
  const now = await strips(page);
  expect([now.get('skin')!.automation, now.get('stomp')!.automation]).toEqual(['touch', 'touch']);
  expect(now.get('rim')!.faderDb).toBe(0);
  await key(page, 1, 'Link').click();
  await expect(undoLabel(page)).toHaveText(/^link 2 strips/);
  // A slip hides nothing; a key held for a second does.
  await key(page, 1, 'Hide').click();
  await pictures(page, 4);
  await expect(undoLabel(page)).toHaveText(/^link 2 strips/);
  await key(page, 1, 'Hide').hover();
  await page.mouse.down();
  await expect(undoLabel(page)).toHaveText(/^hide 2 strips/);
  await page.mouse.up();
  await expect(nameOf(page, 1, 0)).toHaveText('FrDrRim');
  await key(page, 1, 'Show all').click();
  await expect(nameOf(page, 1, 0)).toHaveText('FrDrSki');
});

test('user keys do actions of the page on two layers; recent sessions are opened from the display; MIDI is named', async ({
  page,
}) => {
  await withDesk(page, [one!], {
    userKeys: [
      { key: 1, layer: 1, action: 'findings' },
      { key: 2, layer: 1, action: 'recent' },
      { key: 2, layer: 2, action: 'flow' },
    ],
  });
  const monitor = page.getByRole('list', { name: 'MIDI monitor' });
  await unit(page, 1)
    .getByRole('button', { name: /^Mute 4,/ })
    .click();
  await expect(monitor).toContainText('key mute 4 down');
  await drag(page, fader(page, 1, 3), 20);
  await expect(monitor).toContainText(/fader 3 → \d+/);
  await key(page, 1, 'User key 1').click();
  await expect(page).toHaveURL(/findings$/);
  await page.keyboard.press('4');
  await key(page, 1, 'User key 2').click();
  await expect(shows(page, 1, 'page')).toHaveText(/^Open 1\/\d+: /);
  const before = page.url();
  await unit(page, 1)
    .getByRole('slider', { name: /^Encoder 1:/ })
    .press('Enter');
  await expect(page).not.toHaveURL(before);
  await expect(page.getByRole('grid')).toBeVisible();
});

test('two devices of one name by Web MIDI: each is found, heard and answered; one that goes away ends its drag', async ({
  page,
}) => {
  const midi = await plugIn(page, { a: 'Twin', b: 'Twin' });
  const twin = newDesk('x', 'x', [faders!, faders!]).units.map((u, nth) => ({
    ...u,
    connection: { type: 'midi' as const, input: 'Twin', output: 'Twin', nth },
  }));
  await withDesk(page, [], { units: twin }).catch(() => {});
  await expect(page.getByText(/is a device of its own/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  await page.getByRole('button', { name: 'Look for MIDI devices…' }).click();
  await expect.poll(() => midi((m) => m.sent.b?.length ?? 0)).toBeGreaterThan(100);
  // The second one's first fader is the ninth of the desk.
  await midi((m) => m.say('b', [0x9f, 20, 127, 0xbf, 20, 100, 0xbf, 52, 0]));
  await midi((m) => m.pull('b'));
  await expect(undoLabel(page)).toHaveText('level Bass mic');
  await expect(page.getByText(/has gone away/)).toBeVisible();
  await midi((m) => m.plug('c', 'Twin'));
  await expect.poll(() => midi((m) => m.sent.c?.length ?? 0)).toBeGreaterThan(100);
});

test('a fader without a motor catches its value: nothing moves until it passes it, and the display says which way to go', async ({
  page,
}) => {
  // Two plain faders by seven bits and a display, in the second version of the format, kept by the server.
  const plain = {
    format: 'zonula-surface',
    version: 2,
    id: `plain-${randomUUID().slice(0, 8)}`,
    name: 'Plain faders',
    width: 2,
    controls: [
      ...[0, 1].map((k) => ({
        id: `f${k}`,
        kind: 'fader',
        position: k,
        in: { type: 'control', channel: 1, controller: 10 + k },
      })),
      ...[0, 1].map((k) => ({
        id: `v${k}`,
        kind: 'display',
        position: k,
        shows: 'value',
        characters: 7,
        prefix: [125, 1],
      })),
    ],
  };
  const kept = await page.request.put(`${app().base}/api/surface-profiles/${plain.id}`, { data: plain });
  expect(kept.status()).toBe(200);
  await page.addInitScript(() => {
    const sent: number[] = [];
    const port = {
      id: 'p',
      name: 'Plain',
      state: 'connected',
      onmidimessage: null as ((e: { data: Uint8Array }) => void) | null,
      open: async () => {},
      close: async () => {},
      send: (bytes: number[]) => void sent.push(...bytes),
    };
    const access = { inputs: new Map([['p', port]]), outputs: new Map([['p', port]]), onstatechange: null };
    Object.assign(window, { plainPort: port, plainSent: sent });
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access });
  });
  const move = (value: number) =>
    page.evaluate(
      (v) =>
        (
          window as unknown as { plainPort: { onmidimessage(e: { data: Uint8Array }): void } }
        ).plainPort.onmidimessage({ data: Uint8Array.of(0xb0, 10, v) }),
      value,
    );
  const told = () =>
    page.evaluate(() => String.fromCharCode(...(window as unknown as { plainSent: number[] }).plainSent));
  const units = [
    {
      id: 'unit-1',
      name: 'Plain faders',
      profile: plain.id,
      connection: { type: 'midi' as const, input: 'Plain', output: 'Plain', nth: 0 },
      pickup: 'profile' as const,
    },
  ];
  await withDesk(page, [], { units }).catch(() => {});
  await expect(page.getByText(/is a device of its own/)).toBeVisible();
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  await page.getByRole('button', { name: 'Look for MIDI devices…' }).click();
  await expect.poll(told).toContain('-6.0');
  await move(20);
  await move(40);
  await expect.poll(told).toContain('go up');
  expect((await strips(page)).get('skin')!.faderDb).toBe(-6);
  await expect(undoLabel(page)).not.toHaveText(/level/);
  // Past the value it has hold of it.
  await move(90);
  await move(100);
  await expect(undoLabel(page)).toHaveText('level Frame drum skin');
  await saved(page);
  expect((await strips(page)).get('skin')!.faderDb!).toBeGreaterThan(0);
  await page.request.delete(`${app().base}/api/surface-profiles/${plain.id}`);
});

test('a simulated OSC controller steers the session by real packets, once OSC is switched on', async ({
  page,
}) => {
  const probe = createSocket('udp4');
  const port = await new Promise<number>((done) =>
    probe.bind(0, '127.0.0.1', () => done(probe.address().port)),
  );
  await openDemo(page);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('OSC controllers');
  await page.keyboard.press('Enter');
  const panel = page.getByRole('region', { name: 'OSC', exact: true });
  await expect(panel.getByLabel('Listen for controllers')).not.toBeChecked();
  // Where another program has the port, that is said, and nothing is on.
  await panel.getByRole('textbox', { name: 'Port' }).fill(String(port));
  await panel.getByLabel('Listen for controllers').click();
  await expect(page.getByText(`Another program listens on port ${port}.`)).toBeVisible();
  probe.close();
  await panel.getByLabel('Listen for controllers').click();
  await expect(panel.getByText(`Listens on 127.0.0.1, port ${port}.`)).toBeVisible();
  await panel.getByText('None has spoken yet.').waitFor();

  await page.getByRole('button', { name: 'Plug it in' }).click();
  const fader = page.getByRole('slider', { name: /^OSC fader 2: / });
  await expect(page.getByText(/1 to 8 of/)).toBeVisible();
  await expect(fader).not.toHaveAttribute('aria-label', /nothing/);
  const name = (await fader.getAttribute('aria-label'))!.replace('OSC fader 2: ', '');
  const strip = async () =>
    ((await document(page)) as unknown as Session).strips.find((s) => s.name === name)!;
  const before = (await strip()).faderDb!;
  await fader.focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowUp');
  await expect(undoLabel(page)).toHaveText(`level ${name}`);
  expect((await strip()).faderDb!).toBeGreaterThan(before);
  // The page's own undo takes it back, and the controller is told.
  const moved = await fader.getAttribute('aria-valuenow');
  await page.keyboard.press('Control+z');
  await expect(fader).not.toHaveAttribute('aria-valuenow', moved!);
  await page.getByRole('button', { name: `Mute ${name}, by OSC` }).click();
  await expect.poll(async () => (await strip()).mute).toBe(true);
  await page.getByRole('region', { name: 'Simulated OSC controller' }).getByText('Bank right').click();
  await expect(page.getByText(/9 to 16 of/)).toBeVisible();
  await panel.getByLabel('Listen for controllers').click();
  await expect(page.getByRole('button', { name: 'Plug it in' })).toHaveCount(0);
});
