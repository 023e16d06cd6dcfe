import { randomUUID } from 'node:crypto';
import { mkdtempSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import wavefile from 'wavefile';
import { ZipFile } from 'yazl';
import { newStrip } from '../core/session/defaults';
import { flacEncoder } from '../core/testing/flacFile';
import { toneFile } from '../server/testing/wav';
import { app, cell, document, newSession, saved, undoLabel } from './app';

const tones = (frames: number, hertz: number) =>
  Array.from({ length: frames }, (_, i) => Math.round(8000 * Math.sin((2 * Math.PI * hertz * i) / 48000)));
async function zipped(files: Record<string, Buffer>): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, bytes] of Object.entries(files)) zip.addBuffer(bytes, name);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}
const names = async (page: Page) =>
  (await document(page)).strips.map((s) => s.name).filter((n) => n !== 'Main');
const files = (page: Page) => page.getByLabel('Audio files', { exact: true });
const panel = (page: Page) => page.getByLabel('Files coming in');

test('FLAC, six channels, a ZIP file and a folder come in as strips; what is there already is not sent', async ({
  page,
}) => {
  await newSession(page, 'Many kinds');
  const flac = (await flacEncoder())(Int32Array.from(tones(40_000, 440)));
  const six = new wavefile.WaveFile();
  six.fromScratch(
    6,
    48000,
    '16',
    Array.from({ length: 6 }, (_, c) => tones(20_000, 300 + 50 * c)),
  );
  (six.fmt as { audioFormat: number }).audioFormat = 0xfffe;
  const zip = await zipped({
    'Mix/Pulse_take2.wav': Buffer.from(toneFile(20_000, 1, 48000, 600)),
    'Mix/read me.txt': Buffer.from('no audio'),
  });
  let sent = 0;
  page.on('request', (r) => {
    if (r.method() === 'POST' && /\/api\/stems\?/.test(r.url())) sent++;
  });
  await files(page).setInputFiles([
    { name: 'Skin_T02.flac', mimeType: 'audio/flac', buffer: flac },
    { name: 'Hall 2026-05-14.wav', mimeType: 'audio/wav', buffer: Buffer.from(six.toBuffer()) },
    { name: 'More.zip', mimeType: 'application/zip', buffer: zip },
  ]);
  await expect(undoLabel(page)).toHaveText(/bring in 6 stems/);
  await saved(page);
  expect(await names(page)).toEqual(['Skin', 'Hall front', 'Hall centre', 'Hall LFE', 'Hall rear', 'Pulse']);
  expect(sent).toBe(3);

  // Out again, as they came.
  await cell(page, 'pulse', 'cap').click();
  await cell(page, 'hall-lfe', 'cap').click({ modifiers: ['Control'] });
  const saving = [page.waitForEvent('download'), page.waitForEvent('download', (d) => /Pulse/.test(d.url()))];
  await page.keyboard.press('Control+k');
  await page.keyboard.type('save the stems');
  await page.keyboard.press('Enter');
  const [lfe, pulse] = await Promise.all(saving);
  expect([lfe!.suggestedFilename(), pulse!.suggestedFilename()]).toEqual(['Hall LFE.wav', 'Pulse.wav']);
  const out = new wavefile.WaveFile(readFileSync((await lfe!.path())!));
  expect([...(out.getSamples() as Float64Array)].map((v) => v + 0)).toEqual(
    tones(20_000, 450).map((v) => v + 0),
  );

  // A folder, with the same once more in it.
  const folder = mkdtempSync(join(tmpdir(), 'zonula-e2e-folder-'));
  try {
    mkdirSync(join(folder, 'Takes'));
    writeFileSync(join(folder, 'Takes', 'Skin again.flac'), flac);
    writeFileSync(join(folder, 'Takes', 'notes.txt'), 'no audio');
    await page.getByLabel('Folder of audio files').setInputFiles(join(folder, 'Takes'));
    await expect(
      page
        .getByText('It was there, and not sent', { exact: false })
        .or(page.getByText(/was there, and not sent/)),
    ).toBeVisible();
    expect((await names(page)).at(-1)).toBe('Skin again');
    expect(sent).toBe(3);
  } finally {
    rmSync(folder, { recursive: true });
  }
  // One step back takes all of a step away.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByText('This session has no stems yet')).toBeVisible();
});

test('a file that is cut off is refused by name, others come in, and it comes in as far as it goes when asked to', async ({
  page,
}) => {
  await newSession(page, 'Cut off');
  const whole = Buffer.from(toneFile(48_000, 1, 48000, 500));
  await files(page).setInputFiles([
    { name: 'Cut.wav', mimeType: 'audio/wav', buffer: whole.subarray(0, 100_000) },
    { name: 'Letter.wav', mimeType: 'audio/wav', buffer: Buffer.from('Dear Sir, this is no sound.') },
    { name: 'Whole.wav', mimeType: 'audio/wav', buffer: whole },
  ]);
  await expect(panel(page).getByText('1 came in, 2 refused')).toBeVisible();
  await expect(
    panel(page).getByText(/`Cut\.wav`: it is cut off: it says 48000 frames and holds/),
  ).toBeVisible();
  await expect(panel(page).getByText(/`Letter\.wav`: it is not a WAV file/)).toBeVisible();
  expect(await names(page)).toEqual(['Whole']);
  const take = panel(page).getByRole('button', { name: 'Take what is there' });
  await expect(take).toHaveCount(1);
  await take.focus();
  await page.keyboard.press('Enter');
  await expect(panel(page).getByText('2 came in, 1 refused')).toBeVisible();
  await expect(cell(page, 'cut', 'cap')).toBeVisible();
  await saved(page);
  expect(await names(page)).toEqual(['Whole', 'Cut']);
});

/** Hears what leaves the page, through the browser's own analyser. */
const LISTEN = `{
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (to, ...more) {
    if (to instanceof AudioDestinationNode && !globalThis.heard) {
      const heard = (globalThis.heard = new AnalyserNode(this.context, { fftSize: 32768, smoothingTimeConstant: 0 }));
      connect.call(this, heard);
    }
    return connect.call(this, to, ...more);
  };
}`;
const SECONDS = 300;
const STEMS = 100;
/** Where it is played from, in seconds; each stem sounds there, and is silent elsewhere. */
const PLACES = [0, 150, 270];
const hertz = (k: number) => 200 + k * 55;
/** Five minutes of eight bits. */
function fiveMinutes(k: number): Buffer<ArrayBuffer> {
  const file = Buffer.alloc(44 + SECONDS * 48000, 128);
  file.write('RIFF', 0);
  file.writeUInt32LE(file.length - 8, 4);
  file.write('WAVEfmt ', 8);
  file.writeUInt32LE(16, 16);
  file.writeUInt16LE(1, 20);
  file.writeUInt16LE(1, 22);
  file.writeUInt32LE(48000, 24);
  file.writeUInt32LE(48000, 28);
  file.writeUInt16LE(1, 32);
  file.writeUInt16LE(8, 34);
  file.write('data', 36);
  file.writeUInt32LE(SECONDS * 48000, 40);
  for (const place of PLACES)
    for (let i = 0; i < 12 * 48000; i++)
      file[44 + place * 48000 + i] = 128 + Math.round(100 * Math.sin((2 * Math.PI * hertz(k) * i) / 48000));
  return file;
}

test('a hundred stems of five minutes are played from three places, and every one of them is heard', async ({
  page,
}) => {
  await page.addInitScript(LISTEN);
  const base = app().base;
  const commands: object[] = [];
  let next = 0;
  const bring = async () => {
    while (next < STEMS) {
      const k = next++;
      const made = await fetch(`${base}/api/stems?name=${k}.wav&rate=48000`, {
        method: 'POST',
        body: fiveMinutes(k),
      });
      const { stem } = (await made.json()) as { stem: string };
      const strip = newStrip({
        ...{ id: `t${k}`, kind: 'source', name: `Tone ${k}`, stem, channels: 1, faderDb: -20 },
        out: { to: 'main', on: true },
      });
      commands.push({ type: 'strip.add', strip, at: 0 });
    }
  };
  await Promise.all([bring(), bring(), bring()]);
  const { id } = (await (
    await page.request.post(`${base}/api/sessions`, { data: { name: 'A hundred' } })
  ).json()) as { id: string };
  const kept = await page.request.post(`${base}/api/sessions/${id}/commits`, {
    data: { revision: 0, changeId: randomUUID(), label: 'a hundred', commands },
  });
  expect(kept.ok()).toBe(true);
  await page.goto(`${base}/session/${id}`);
  await expect(page.getByRole('grid')).toBeVisible();

  /** Levels of all tones in what is heard now. */
  const levels = () =>
    page.evaluate(
      (all) => {
        const heard = (globalThis as unknown as { heard: AnalyserNode }).heard;
        const bins = new Float32Array(heard.frequencyBinCount);
        heard.getFloatFrequencyData(bins);
        const each = heard.context.sampleRate / heard.fftSize;
        return all.map((f) => Math.max(...[-1, 0, 1].map((d) => bins[Math.round(f / each) + d]!)));
      },
      Array.from({ length: STEMS }, (_, k) => hertz(k)),
    );
  const place = page.getByRole('slider', { name: 'Position' });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  for (const seconds of PLACES) {
    if (seconds > 0) {
      const box = (await place.boundingBox())!;
      await page.mouse.click(box.x + (box.width * (seconds + 1)) / SECONDS, box.y + box.height / 2);
    }
    // A window of the analyser after it has begun.
    await expect
      .poll(async () => Number(await place.getAttribute('aria-valuenow')), { intervals: [50] })
      .toBeGreaterThan(seconds + 1.8);
    expect(Number(await place.getAttribute('aria-valuenow'))).toBeLessThan(seconds + 11);
    const heard = await levels();
    const loudest = Math.max(...heard);
    expect(loudest).toBeGreaterThan(-70);
    // All of them are as loud: one that is not heard is far below.
    expect(
      heard.flatMap((level, k) => (level < loudest - 12 ? [`Tone ${k}: ${level.toFixed(1)} dB`] : [])),
    ).toEqual([]);
  }
});
