import { numberJumpFrames } from '../base/jump';
import type { Hertz } from '../base/units';
import { gainOf } from '../levels/decibels';
import {
  isOn,
  LANE_HEADER_BYTES,
  shareOf,
  valueOf,
  type Parameter,
  type Params,
  type Processor,
  type ResponseBand,
} from './description';
import { EASED, easeNumbers } from './ease';
import {
  passSection,
  resting,
  sectionFloats,
  SECTION_FLOATS,
  sectionsResponse,
  sectionsTransfer,
  type Section,
} from './filter';
import { bell, highShelf, lowShelf } from './matched';
import { choice, decibels, factor, frequency, milliseconds, percent, ratioOf, toggle } from './parameters';

/** Decibels of an octave of power, in which the engine counts levels. */
const OCTAVE = 10 * Math.log10(2);
const MOST: number = 24;
/** Decibels that are none; and that stand for it, as poles and zeros of a section without gain are anywhere. */
const NONE: number = 1e-3;

interface Band extends ResponseBand {
  readonly kind: 'lowShelf' | 'bell' | 'highShelf';
  readonly gain: Parameter;
  readonly q: Parameter;
  readonly range: Parameter;
  readonly threshold: Parameter;
  readonly attack: Parameter;
  readonly release: Parameter;
}

function bandOf(kind: Band['kind'], id: string, name: string, hertz: Hertz, q: number): Band {
  const group = name;
  const moves = `${name} dynamics`;
  return {
    id,
    name,
    kind,
    on: toggle(`${id}On`, 'On', 1, { group }),
    frequency: frequency(`${id}Frequency`, 'Frequency', 20, 20000, hertz, { group }),
    gain: decibels(`${id}Gain`, 'Gain', -MOST, MOST, 0, { group, step: 0.1 }),
    q: factor(`${id}Q`, 'Q', 0.1, 12, q, { group }),
    range: decibels(`${id}Range`, 'Range', -MOST, MOST, 0, { group: moves, step: 0.1 }),
    threshold: decibels(`${id}Threshold`, 'Threshold', -80, 0, -30, { group: moves }),
    attack: milliseconds(`${id}Attack`, 'Attack', 0.5, 200, 10, { group: moves }),
    release: milliseconds(`${id}Release`, 'Release', 10, 3000, 120, { group: moves, step: 1 }),
  };
}

/** The four bands in the order of their frequencies. */
export const DYNAMIC_BANDS: readonly Band[] = [
  bandOf('lowShelf', 'lowShelf', 'Low shelf', 120, 0.71),
  bandOf('bell', 'bell1', 'Bell 1', 350, 1.4),
  bandOf('bell', 'bell2', 'Bell 2', 3000, 1.4),
  bandOf('highShelf', 'highShelf', 'High shelf', 7000, 0.71),
];
const ratio = ratioOf('ratio', 'Ratio', 1, 20, 2, { group: 'All bands' });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'All bands' });
const listen = choice('listen', 'Listen', ['Off', ...DYNAMIC_BANDS.map((b) => b.name)], 0, {
  group: 'All bands',
});

/** How far a band goes at most from its gain, in decibels: its range, as far as gains go. */
function reachOf(band: Band, params: Params): number {
  const gain = valueOf(band.gain, params);
  const end = Math.max(-MOST, Math.min(MOST, gain + valueOf(band.range, params)));
  return Math.abs(end - gain) < NONE ? 0 : end - gain;
}

/**
 * How far a steady level in a band takes it from its gain, in decibels: its sign is that of the range.
 * @param level of the key in the band, dB
 */
export function dynamicGain(band: Band, level: number, params: Params): number {
  const reach = reachOf(band, params);
  const over = Math.max(0, level - valueOf(band.threshold, params));
  return Math.sign(reach) * Math.min(Math.abs(reach), (1 - 1 / valueOf(ratio, params)) * over);
}

const MAKE = { lowShelf, bell, highShelf };
const make = (band: Band, params: Params, gain: number, sampleRate: Hertz): Section =>
  MAKE[band.kind](valueOf(band.frequency, params), gain, valueOf(band.q, params), sampleRate);

/** Shares of a band's way at which its section is worked out; between them each of its numbers follows a cubic. */
const NODES = [0, 0.25, 0.75, 1] as const;
const POWERS = NODES.length;

/** Coefficients of the cubic through values at the nodes, the constant first: I. Newton's divided differences, multiplied out. */
function cubicThrough(values: readonly number[]): readonly number[] {
  const divided = [...values];
  for (let order = 1; order < POWERS; order++)
    for (let i = POWERS - 1; i >= order; i--)
      divided[i] = (divided[i]! - divided[i - 1]!) / (NODES[i]! - NODES[i - order]!);
  let cubic = [divided[POWERS - 1]!];
  for (let i = POWERS - 2; i >= 0; i--) {
    // times (t - node), plus the next.
    const raised = [0, ...cubic];
    cubic.forEach((c, k) => (raised[k]! -= NODES[i]! * c));
    raised[0]! += divided[i]!;
    cubic = raised;
  }
  return cubic;
}

interface Asked {
  readonly key: string;
  /** Five numbers of a section at each of the nodes, one node after the other. */
  readonly floats: readonly number[];
}
/** A lane that moves one band asks for the same of all others again and again. */
const asked = new Map<Band, Asked>();
/**
 * What of a section changes evenly with its gain, as a ratio: g, k and the numerator's three numbers, all of which are greater than 0, as its
 * zeros lie where its poles may.
 */
const positiveOf = ({ g, k, m0, m1, m2 }: Section) => [g, k, m0 + m2, m0 * k + m1, m0];

/** The numbers of a band's section along its way. */
function travelOf(band: Band, params: Params, sampleRate: Hertz): readonly number[] {
  const on = isOn(band.on, params);
  const gain = on ? valueOf(band.gain, params) : 0;
  const reach = on ? reachOf(band, params) : 0;
  const key = `${sampleRate} ${gain} ${reach} ${valueOf(band.frequency, params)} ${valueOf(band.q, params)}`;
  const known = asked.get(band);
  if (known?.key === key) return known.floats;
  const at = (t: number) => {
    const db = gain + t * reach;
    const section = make(band, params, Math.abs(db) < NONE ? NONE : db, sampleRate);
    return positiveOf(db === 0 ? resting(section) : section);
  };
  const still = at(0);
  const floats = NODES.flatMap((t) => (t === 0 || reach === 0 ? still : at(t)));
  asked.set(band, { key, floats });
  return floats;
}

/** A band's section where it has gone a share of its way. @param t 0 to 1 */
export function dynamicSection(band: Band, params: Params, t: number, sampleRate: Hertz): Section {
  const floats = travelOf(band, params, sampleRate);
  const at = (i: number) => {
    const cubic = cubicThrough(NODES.map((_, node) => Math.log2(floats[node * SECTION_FLOATS + i]!)));
    return 2 ** cubic.reduceRight((sum, c) => sum * t + c, 0);
  };
  const [g, k, n0, n1, n2] = [0, 1, 2, 3, 4].map(at) as [number, number, number, number, number];
  return { g, k, m0: n2, m1: n1 - n2 * k, m2: n0 - n2 };
}

/** What a band hears of the key. */
function detector(band: Band, params: Params, sampleRate: Hertz): Section {
  const hertz = valueOf(band.frequency, params);
  if (band.kind === 'lowShelf') return passSection('high', hertz, Math.SQRT1_2, sampleRate);
  if (band.kind === 'highShelf') return passSection('low', hertz, Math.SQRT1_2, sampleRate);
  const { g, k } = passSection('low', hertz, valueOf(band.q, params), sampleRate);
  return { g, k, m0: 0, m1: k, m2: 0 };
}

/** The same of what it hears: it leaps, too, from one octave of Q to another, as what rings in a narrow band would be lifted in a wide one. */
const hearPlaceOf = (band: Band, params: Params): number =>
  64 +
  Math.log2(valueOf(band.frequency, params)) +
  (band.kind === 'bell' ? 16 * Math.round(Math.log2(valueOf(band.q, params))) : 0);

/** The lowest tone that a band waits for, and the share of its wave: half of one lies between two of its peaks. */
const LOWEST: Hertz = 40;
const HALF_WAVE = 0.55;
/**
 * Seconds for which a band stays where a peak has brought it: until the next one of the lowest tone that it hears, so that it does not
 * follow the waves of a steady note one by one. Our own value.
 */
function holdOf(band: Band, params: Params): number {
  const hertz = valueOf(band.frequency, params);
  const lower = Math.exp(-Math.asinh(1 / (2 * valueOf(band.q, params))));
  const lowest = band.kind === 'lowShelf' ? LOWEST : band.kind === 'bell' ? hertz * lower : hertz / 2;
  return HALF_WAVE / Math.max(LOWEST, lowest);
}

/** Sections of all bands, by how much of its way each has gone. */
const sectionsAt = (params: Params, sampleRate: Hertz, gone: (band: Band, i: number) => number) =>
  DYNAMIC_BANDS.map((b, i) => dynamicSection(b, params, gone(b, i), sampleRate));
const sectionsAtRest = (params: Params, sampleRate: Hertz) => sectionsAt(params, sampleRate, () => 0);
const responseAt = (hertz: Hertz, params: Params, sampleRate: Hertz) =>
  sectionsResponse(sectionsAtRest(params, sampleRate), hertz, sampleRate);

/** A number that tells where a band stands: where it moves by more than a quarter, the band leaps. In octaves; far away where it is off. */
const placeOf = (band: Band, params: Params): number =>
  isOn(band.on, params) ? 64 + Math.log2(valueOf(band.frequency, params)) : 0;
/** Bytes that a band keeps in the engine, beside the float that tells how far it has gone. */
const BAND_BYTES = 312;

/**
 * Four bands of which each goes from its gain as far as its range says, while what it hears is over its threshold. Sections follow the
 * analogue prototypes to 20 kHz wherever a band stands: see `matched.ts`.
 */
export const dynamicEqualizer: Processor = {
  type: 'dynamicEqualizer',
  name: 'Dynamic equalizer',
  shortName: 'Dyn EQ',
  about:
    'Four bands that move while they are needed: a bell goes down when its tone sings out, a shelf lifts the air of loud passages alone. A key lets another strip decide: a bass makes room at the frequency of the drum that keys it. Listen to what a band hears to find its frequency.',
  parameters: [
    ...DYNAMIC_BANDS.flatMap((b) => [
      b.on,
      b.frequency,
      b.gain,
      b.q,
      b.range,
      b.threshold,
      b.attack,
      b.release,
    ]),
    ratio,
    link,
    listen,
  ],
  channels: 'linked',
  takesKey: true,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  computes: [
    'Each band hears the key by itself, or what comes into the processor: a bell through a band-pass of its frequency and Q (0 dB in its middle, by the bilinear transform), a shelf through a low-pass or high-pass of second order (Butterworth) at its frequency. Level: 20 log10 of each frame of that. A stereo strip’s lower side is drawn towards the higher by the link, in decibels.',
    'A band goes by min(|range|, (1 − 1/R)(x − T)) decibels from its gain, up where its range is above 0, down where it is below; no band goes beyond ±24 dB. A one-pole filter of the release lets it come back, one of the attack leads there. It begins to come back 0.55 waves of the lowest tone that it hears after a peak: of a bell’s lower edge, of an octave below a high shelf’s frequency, of 40 Hz at least and in a low shelf.',
    'Its section is worked out at 0, ¼, ¾ and all of its way, in decibels, as an equalizer’s band is. With s = j tan(πf/fs)/g it is (n₂s² + n₁s + n₀)/(s² + ks + 1): in between, the logarithms of g, k, n₀, n₁ and n₂ follow the cubics through these four, at every frame.',
    'A band whose frequency leaps by more than a quarter of an octave, or that is switched on or off, and what it hears where that does or its Q goes to another octave, runs beside what it was and crosses over in 120 frames, 2.5 ms at least, by t⁵ (126 − 420t + 540t² − 315t³ + 70t⁴).',
    EASED,
  ],
  measured: [
    'Where nothing is over a threshold it is within 0.5 dB of the prototypes from 20 Hz to 20 kHz, and what it gives is what its curve shows, within 0.02 dB.',
    'A tone in the middle of a bell is turned up or down by what is asked, within 0.1 dB; a soft tone beside it by what the prototype of that gain does there, within 0.3 dB: at 44.1 to 192 kHz.',
    'With an attack of 0.5 ms and a release of 10, tones of 40, 60 and 90 Hz that it turns down by 12 dB are distorted by less than 0.5 %, at 44.1 to 192 kHz.',
  ],
  curves: ['response'],
  bands: DYNAMIC_BANDS,
  transferAt: (hertz, params, sampleRate) =>
    sectionsTransfer(sectionsAtRest(params, sampleRate), hertz, sampleRate),
  responseAt,
  movedResponseAt(hertz, params, sampleRate, moves) {
    const gone = (band: Band, i: number) => {
      const reach = reachOf(band, params);
      return reach === 0 ? 0 : moves ? Math.min(1, Math.max(0, moves[i]! / reach)) : 1;
    };
    return sectionsResponse(sectionsAt(params, sampleRate, gone), hertz, sampleRate);
  },
  bandResponseAt: (band, hertz, params, sampleRate) =>
    sectionsResponse([dynamicSection(DYNAMIC_BANDS[band]!, params, 0, sampleRate)], hertz, sampleRate),
  bandAlone: (band, params) => ({ ...params, [listen.id]: band + 1 }),
  packed: true,
  latency: () => 0,
  direct: (params, { sampleRate }) => ({ delay: 0, gain: gainOf(responseAt(1000, params, sampleRate)) }),
  stateBytes: () => LANE_HEADER_BYTES + DYNAMIC_BANDS.length * (4 + BAND_BYTES),
  leaps: ['bandPlaces', 'bandsAtOnce', 'hearPlaces', 'detectorsAtOnce'],
  engineParams(params, { sampleRate }) {
    const travels = DYNAMIC_BANDS.flatMap((b) => travelOf(b, params, sampleRate));
    const detectors = DYNAMIC_BANDS.flatMap((b) => sectionFloats(detector(b, params, sampleRate)));
    const slope = 1 - 1 / valueOf(ratio, params);
    return {
      bands: travels,
      detectors,
      /** Octaves of power. */
      thresholds: DYNAMIC_BANDS.map((b) => valueOf(b.threshold, params) / OCTAVE),
      /** Shares of its way that a band goes for each octave over its threshold. */
      shares: DYNAMIC_BANDS.map((b) => {
        const reach = Math.abs(reachOf(b, params));
        return isOn(b.on, params) && reach > 0 ? (slope * OCTAVE) / reach : 0;
      }),
      /** 0 of a band that passes what comes. */
      works: DYNAMIC_BANDS.map((b) =>
        isOn(b.on, params) && (valueOf(b.gain, params) !== 0 || reachOf(b, params) !== 0) ? 1 : 0,
      ),
      /** Decibels that all of its way is; less than 0 where it goes down. */
      reaches: DYNAMIC_BANDS.map((b) => (isOn(b.on, params) ? reachOf(b, params) : 0)),
      attacks: DYNAMIC_BANDS.map((b) => shareOf(valueOf(b.attack, params), sampleRate)),
      releases: DYNAMIC_BANDS.map((b) => shareOf(valueOf(b.release, params), sampleRate)),
      /** Frames. */
      holds: DYNAMIC_BANDS.map((b) => holdOf(b, params) * sampleRate),
      link: valueOf(link, params) / 100,
      /** How much of what each band hears is heard. */
      listens: DYNAMIC_BANDS.map((_, i) => (Math.round(valueOf(listen, params)) === i + 1 ? 1 : 0)),
      ...easeNumbers(sampleRate),
      /** Frames in which a band that leaps has crossed over. */
      fade: numberJumpFrames(sampleRate),
      bandPlaces: DYNAMIC_BANDS.map((b) => placeOf(b, params)),
      bandsAtOnce: travels,
      hearPlaces: DYNAMIC_BANDS.map((b) => hearPlaceOf(b, params)),
      detectorsAtOnce: detectors,
    };
  },
};
