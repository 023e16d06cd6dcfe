import { randomUUID } from 'node:crypto';
import { expect, type Page } from '@playwright/test';
import { newStrip } from '../core/session/defaults';
import { toneFile } from '../server/testing/wav';
import { app } from './app';

/** Gives the page an analyser of what it plays. */
export const LISTEN = `{
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (to, ...more) {
    if (to instanceof AudioDestinationNode && !globalThis.heard) {
      const heard = (globalThis.heard = new AnalyserNode(this.context, { fftSize: 8192, smoothingTimeConstant: 0 }));
      connect.call(this, heard);
    }
    return connect.call(this, to, ...more);
  };
}`;
export const TONES = [400, 700, 1100];
export const SECONDS = 40;

/** A session of three tones. @param rates of the session, and of the files that its stems come from */
export async function tones(
  page: Page,
  name: string,
  rates = { session: 48000, files: 48000 },
  seconds = SECONDS,
): Promise<string> {
  const { base } = app();
  const commands: object[] = [];
  for (const hertz of TONES) {
    const body = Buffer.from(toneFile(seconds * rates.files, 1, rates.files, hertz));
    const made = await fetch(`${base}/api/stems?name=${hertz}.wav&rate=${rates.session}`, {
      method: 'POST',
      body,
    });
    const { stem } = (await made.json()) as { stem: string };
    const strip = newStrip({
      ...{ id: `t${hertz}`, kind: 'source', name: `Tone ${hertz}`, stem, channels: 1, faderDb: -20 },
      out: { to: 'main', on: true },
    });
    commands.push({ type: 'strip.add', strip, at: 0 });
  }
  const made = await page.request.post(`${base}/api/sessions`, { data: { name, sampleRate: rates.session } });
  const { id } = (await made.json()) as { id: string };
  await page.request.post(`${base}/api/sessions/${id}/commits`, {
    data: { revision: 0, changeId: randomUUID(), label: 'tones', commands },
  });
  return id;
}
export const open = async (page: Page, id: string) => {
  await page.goto(`${app().base}/session/${id}`);
  await expect(page.getByRole('grid')).toBeVisible();
};
export const clock = async (page: Page) =>
  Number(await page.getByRole('slider', { name: 'Position' }).getAttribute('aria-valuenow'));
export const playTo = async (page: Page, seconds: number) => {
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(() => clock(page), { intervals: [50] }).toBeGreaterThan(seconds);
};
/** Decibels of each tone, of the loudest between them, and of the loudest above 3 kHz, in what is heard now. */
export const heard = (page: Page) =>
  page.evaluate((all) => {
    const { heard } = globalThis as unknown as { heard: AnalyserNode };
    const bins = new Float32Array(heard.frequencyBinCount);
    heard.getFloatFrequencyData(bins);
    const each = heard.context.sampleRate / heard.fftSize;
    const at = (f: number) => Math.max(...[-1, 0, 1].map((d) => bins[Math.round(f / each) + d]!));
    const between = [...bins.keys()].filter(
      (k) => k * each > 100 && k * each < 20_000 && all.every((f) => Math.abs(k * each - f) > 60),
    );
    const loudest = (from: number) =>
      Math.max(...between.filter((k) => k * each > from).map((k) => bins[k]!));
    return { tones: all.map(at), rest: loudest(0), high: loudest(3000) };
  }, TONES);
export async function expectTones(page: Page) {
  const { tones: levels, rest } = await heard(page);
  for (const level of levels) expect(level).toBeGreaterThan(-60);
  expect(rest).toBeLessThan(Math.max(...levels) - 50);
}
