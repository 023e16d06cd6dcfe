import { parameterName, parameterText } from '../processors/text';
import { processorPages } from '../surface/encoders/processorPages';
import type { Parameter, Processor } from '../processors/description';

const CHANNELS = {
  each: 'Each channel by itself.',
  linked: 'Both sides of a stereo strip by one detector, as far as they are linked.',
  joined: 'Both sides of a stereo strip together; a mono strip by itself.',
  stereo: 'Stereo strips alone.',
} as const;

const range = (p: Parameter) =>
  p.choices ? p.choices.join(', ') : `${parameterText(p, p.min)} to ${parameterText(p, p.max)}`;

const travel = (p: Parameter) => (p.choices ? 'a switch' : p.law === 'log' ? 'by ratio' : 'even');

/** A processor's page in the docs, in Markdown, from its description alone. */
export function processorPage(p: Processor, sampleRate = 48000): string {
  const latency = p.latency({}, sampleRate);
  const pages = processorPages(p);
  const rows = p.parameters.map(
    (x) =>
      `| ${x.group ?? ''} | ${parameterName(x, p.parameters)} | \`${x.id}\` | ${range(x)} | ${travel(x)} | ${parameterText(x, x.default)} |`,
  );
  return [
    `# ${p.name}`,
    '',
    `<!-- Written by \`npm run docs\` from core/processors. -->`,
    '',
    p.about,
    '',
    ...(p.curves.length ? [`![${p.name}: its curve](${p.type}.svg)`, ''] : []),
    '| Group | Parameter | In the format | Range | Travel | Default |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows,
    '',
    `- Channels: ${CHANNELS[p.channels]}`,
    `- Key input: ${p.takesKey ? 'yes; any strip can key it, also one that is not heard.' : 'none.'}`,
    `- Mix: ${p.mixes ? 'yes.' : 'none; it is all or nothing.'}`,
    `- Latency: ${latency === 0 ? 'none.' : `${latency} frames at ${sampleRate / 1000} kHz with its defaults; other paths are held back by as much, and the dry share of its mix too.`}`,
    `- Depends on level: ${p.levelDependent ? 'yes; it belongs before the fader, so that the fader does not change what it does.' : 'no.'}`,
    `- On eight encoders: ${pages.length === 1 ? 'one page' : `${pages.length} pages`}${pages.some((x) => x.name) ? ` (${pages.map((x) => x.name).join('; ')})` : ''}.`,
    `- In the format: \`"type": "${p.type}"\`.`,
    '',
    ...(p.computes ? ['How it computes:', '', ...p.computes.map((m) => `- ${m}`), ''] : []),
    ...(p.measured
      ? ['Measured by the tests, on what it gives:', '', ...p.measured.map((m) => `- ${m}`), '']
      : []),
  ].join('\n');
}

const W = 480;
const H = 240;
const svg = (label: string, lines: readonly string[], grid: readonly string[]) =>
  [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" role="img" aria-label="${label}" font-family="sans-serif" font-size="10">`,
    `<rect width="${W}" height="${H}" fill="#f5f1e6"/>`,
    ...grid,
    ...lines,
    '</svg>',
    '',
  ].join('\n');
const path = (points: readonly (readonly [number, number])[]) =>
  `<polyline fill="none" stroke="#14795a" stroke-width="2" points="${points.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(' ')}"/>`;
const rule = (x1: number, y1: number, x2: number, y2: number) =>
  `<line x1="${x1.toFixed(1)}" y1="${y1.toFixed(1)}" x2="${x2.toFixed(1)}" y2="${y2.toFixed(1)}" stroke="#cfc8b5"/>`;
const text = (x: number, y: number, t: string) =>
  `<text x="${x.toFixed(1)}" y="${y.toFixed(1)}" fill="#4a5d60">${t}</text>`;

/** Settings that show what the curve can look like. */
const SHOWN: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  equalizer: { lowCutOn: 1, lowCutSlope: 3, bell1Gain: -6, bell3Gain: 6, bell3Q: 2, highShelfGain: 4 },
  dynamicEqualizer: { lowShelfGain: 2, bell1Gain: -3, bell2Gain: 3, highShelfGain: 4 },
  delay: { time: 300, feedback: 60 },
};

/** A drawing of a processor's first curve, as SVG; null where it has none. */
export function processorCurve(p: Processor, sampleRate = 48000): string | null {
  const params = SHOWN[p.type] ?? {};
  const [curve] = p.curves;
  if (curve === 'response') {
    const x = (hertz: number) => (W * Math.log(hertz / 20)) / Math.log(1000);
    const y = (db: number) => H / 2 - (db * H) / 48;
    const grid = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000].flatMap((f) => [
      rule(x(f), 0, x(f), H),
      text(x(f) + 2, H - 4, f >= 1000 ? `${f / 1000}k` : `${f}`),
    ]);
    for (const db of [-12, 0, 12]) grid.push(rule(0, y(db), W, y(db)), text(2, y(db) - 2, `${db} dB`));
    const points = Array.from({ length: 241 }, (_, i) => {
      const f = 20 * 1000 ** (i / 240);
      return [x(f), y(Math.max(-30, p.responseAt!(f, params, sampleRate)))] as const;
    });
    return svg(`Gain over frequency of the ${p.name}`, [path(points)], grid);
  }
  if (curve === 'static') {
    const at = (db: number) => 1 + db / 60;
    const grid = [-48, -36, -24, -12].flatMap((db) => [
      rule(at(db) * W, 0, at(db) * W, H),
      rule(0, H - at(db) * H, W, H - at(db) * H),
      text(at(db) * W + 2, H - 4, `${db}`),
      text(2, H - at(db) * H - 2, `${db} dB`),
    ]);
    const points = Array.from({ length: 121 }, (_, i) => {
      const level = -60 + i / 2;
      return [at(level) * W, H - at(level - p.reductionAt!(level, params)) * H] as const;
    });
    return svg(`Output over input level of the ${p.name}`, [path(points)], grid);
  }
  if (curve === 'decay') {
    const points = p.decayOf!(params, { sampleRate, tempo: { bpm: 96 } });
    const end = Math.max(...points.map(([t]) => t)) * 1.05;
    const x = (t: number) => (t / end) * W;
    const y = (db: number) => (-db / 60) * (H - 20) + 4;
    const grid = [-20, -40, -60].flatMap((db) => [rule(0, y(db), W, y(db)), text(2, y(db) - 2, `${db} dB`)]);
    for (let s = 0; s <= end; s += end > 4 ? 1 : 0.5) grid.push(text(x(s) + 2, H - 4, `${s} s`));
    const drawn =
      points.length > 2
        ? points.map(([t, db]) => rule(x(t), y(db), x(t), H - 16).replace('#cfc8b5', '#14795a'))
        : [path(points.map(([t, db]) => [x(t), y(db)] as const))];
    return svg(`Level over time of the ${p.name}`, drawn, grid);
  }
  return null;
}
