import { numberJumpFrames } from '../base/jump';
import type { Hertz } from '../base/units';
import { gainOf } from '../levels/decibels';
import {
  isOn,
  LANE_HEADER_BYTES,
  valueOf,
  type Parameter,
  type Params,
  type Processor,
  type ResponseBand,
} from './description';
import {
  butterworthCut,
  passSection,
  resting,
  sectionFloats,
  sectionsResponse,
  sectionsTransfer,
  type Section,
} from './filter';
import { bell, highShelf, lowShelf } from './matched';
import { choice, decibels, factor, frequency, toggle } from './parameters';

/** Slopes of the cuts, in decibels per octave; a Butterworth filter of order n falls by 6 n. */
export const CUT_SLOPES = [6, 12, 18, 24, 36, 48] as const;
/** Sections of second order that a cut takes at most. */
const CUT_SECTIONS = 4;

const quality = (id: string, value: number, group: string): Parameter =>
  factor(id, 'Q', 0.1, 40, value, { group });
const slope = (id: string, group: string) =>
  choice(
    id,
    'Slope',
    CUT_SLOPES.map((s) => `${s} dB/oct`),
    1,
    { group },
  );

interface Band extends ResponseBand {
  readonly kind: 'lowCut' | 'lowShelf' | 'bell' | 'highShelf' | 'highCut';
}

const cutBand = (kind: 'lowCut' | 'highCut', name: string, hertz: Hertz): Band => ({
  id: kind,
  name,
  kind,
  on: toggle(`${kind}On`, 'On', 0, { group: name }),
  frequency: frequency(`${kind}Frequency`, 'Frequency', 20, 20000, hertz, { group: name }),
  slope: slope(`${kind}Slope`, name),
});
const gainBand = (
  kind: 'lowShelf' | 'bell' | 'highShelf',
  id: string,
  name: string,
  hertz: Hertz,
  q: number,
): Band => ({
  id,
  name,
  kind,
  on: toggle(`${id}On`, 'On', 1, { group: name }),
  frequency: frequency(`${id}Frequency`, 'Frequency', 20, 20000, hertz, { group: name }),
  gain: decibels(`${id}Gain`, 'Gain', -24, 24, 0, { group: name, step: 0.1 }),
  q: quality(`${id}Q`, q, name),
});

/** The eight bands in the order of their frequencies. */
export const EQUALIZER_BANDS: readonly Band[] = [
  cutBand('lowCut', 'Low cut', 80),
  gainBand('lowShelf', 'lowShelf', 'Low shelf', 100, 0.71),
  gainBand('bell', 'bell1', 'Bell 1', 250, 1),
  gainBand('bell', 'bell2', 'Bell 2', 800, 1),
  gainBand('bell', 'bell3', 'Bell 3', 2500, 1),
  gainBand('bell', 'bell4', 'Bell 4', 5000, 1),
  gainBand('highShelf', 'highShelf', 'High shelf', 8000, 0.71),
  cutBand('highCut', 'High cut', 16000),
];

/** What a band was asked last, and its answer. */
interface Asked {
  readonly sampleRate: Hertz;
  readonly on: number;
  readonly hertz: Hertz;
  readonly gain: number;
  readonly shape: number;
  readonly sections: readonly Section[];
  readonly floats: readonly number[];
}
/** A lane that moves one band asks for the same of all others again and again. */
const asked = new Map<Band, Asked>();

/** The sections of one band, as many whatever its settings; what is off or has nothing to do rests. */
function ask(band: Band, params: Params, sampleRate: Hertz): Asked {
  const known = asked.get(band);
  const on = valueOf(band.on, params);
  const hertz = valueOf(band.frequency, params);
  const gain = band.gain ? valueOf(band.gain, params) : 0;
  const shape = valueOf((band.q ?? band.slope)!, params);
  if (
    known?.sampleRate === sampleRate &&
    known.on === on &&
    known.hertz === hertz &&
    known.gain === gain &&
    known.shape === shape
  )
    return known;
  const sections = sectionsOfBand(band, params, sampleRate);
  const answer = { sampleRate, on, hertz, gain, shape, sections, floats: sections.flatMap(sectionFloats) };
  asked.set(band, answer);
  return answer;
}
const bandSections = (band: Band, params: Params, sampleRate: Hertz) =>
  ask(band, params, sampleRate).sections;

function sectionsOfBand(band: Band, params: Params, sampleRate: Hertz): readonly Section[] {
  const hertz = valueOf(band.frequency, params);
  const on = isOn(band.on, params);
  if (band.slope) {
    const side = band.kind === 'lowCut' ? 'low' : 'high';
    const order = CUT_SLOPES[Math.round(valueOf(band.slope, params))]! / 6;
    const beyond = side === 'high' && hertz >= 0.49 * sampleRate;
    const sections = on && !beyond ? butterworthCut(side, hertz, order, sampleRate) : [];
    const rest = resting(passSection(side, hertz, Math.SQRT1_2, sampleRate));
    return Array.from({ length: CUT_SECTIONS }, (_, i) => sections[i] ?? rest);
  }
  const gain = valueOf(band.gain!, params);
  const make = { lowShelf, bell, highShelf }[band.kind as 'lowShelf' | 'bell' | 'highShelf'];
  const section = make(hertz, gain, valueOf(band.q!, params), sampleRate);
  return [on && gain !== 0 ? section : resting(section)];
}

export const equalizerSections = (params: Params, sampleRate: Hertz): readonly Section[] =>
  EQUALIZER_BANDS.flatMap((b) => bandSections(b, params, sampleRate));

/** One band's gain at a frequency, for a drawing of it alone. */
const bandResponse = (band: Band, params: Params, hertz: Hertz, sampleRate: Hertz): number =>
  sectionsResponse(bandSections(band, params, sampleRate), hertz, sampleRate);

/** Octaves that a band alone is heard over, at least and at most. */
const NARROWEST = 1 / 3;
const WIDEST = 4;
/**
 * Settings by which what one band works on is heard by itself: a bell between the edges of its bandwidth, which is
 * 2 asinh(1 / (2 Q)) / ln 2 octaves, a cut or a shelf of the lows below its frequency, one of the highs above.
 */
export function bandAlone(band: Band, params: Params): Params {
  const hertz = valueOf(band.frequency, params);
  const octaves = band.q ? (2 * Math.asinh(1 / (2 * valueOf(band.q, params)))) / Math.LN2 : 0;
  const half = 2 ** (Math.min(WIDEST, Math.max(NARROWEST, octaves)) / 2);
  const edges: Readonly<Record<Band['kind'], readonly [Hertz | null, Hertz | null]>> = {
    lowCut: [null, hertz],
    lowShelf: [null, hertz],
    bell: [hertz / half, hertz * half],
    highShelf: [hertz, null],
    highCut: [hertz, null],
  };
  const [low, high] = edges[band.kind];
  const within = (f: Hertz) => Math.min(20000, Math.max(20, f));
  const [lowCut, highCut] = [EQUALIZER_BANDS[0]!, EQUALIZER_BANDS.at(-1)!];
  return {
    ...Object.fromEntries(EQUALIZER_BANDS.map((b) => [b.on.id, 0])),
    ...(low === null ? {} : { [lowCut.on.id]: 1, [lowCut.frequency.id]: within(low), [lowCut.slope!.id]: 3 }),
    ...(high === null
      ? {}
      : { [highCut.on.id]: 1, [highCut.frequency.id]: within(high), [highCut.slope!.id]: 3 }),
  };
}

export const EQUALIZER_SECTIONS = 14;
/** The shelves, and the bells between them. */
const INNER_BANDS = EQUALIZER_BANDS.slice(1, -1);
/** Bytes in which a cut keeps what it crosses over from, and a shelf or bell. */
const CUT_BYTES = 212;
const BAND_BYTES = 72;

/** A number that tells what a cut is set to: where it moves by more than a quarter, the cut leaps. In octaves; 16 an order. */
function placeOf(band: Band, params: Params): number {
  if (!isOn(band.on, params)) return 0;
  return (
    16 * CUT_SLOPES[Math.round(valueOf(band.slope!, params))]! + Math.log2(valueOf(band.frequency, params))
  );
}

/** The same of a shelf or bell: in octaves; far away where it is off. */
const bandPlaceOf = (band: Band, params: Params): number =>
  isOn(band.on, params) ? 64 + Math.log2(valueOf(band.frequency, params)) : 0;

const responseAt = (hertz: Hertz, params: Params, sampleRate: Hertz) =>
  sectionsResponse(equalizerSections(params, sampleRate), hertz, sampleRate);

/**
 * Eight bands: a low cut, a low shelf, four bells, a high shelf and a high cut. Bells and shelves follow the
 * analogue prototypes of the W3C Audio EQ Cookbook to 20 kHz at every rate; cuts are Butterworth filters.
 */
export const equalizer: Processor = {
  type: 'equalizer',
  name: 'Equalizer',
  shortName: 'EQ',
  about:
    'Lifts and lowers parts of the spectrum: cuts at both ends, shelves beside them, and four bells between. A band that is off, or at 0 dB, costs nothing.',
  parameters: EQUALIZER_BANDS.flatMap((b) => [
    b.on,
    b.frequency,
    ...(b.gain ? [b.gain] : []),
    ...(b.q ? [b.q] : []),
    ...(b.slope ? [b.slope] : []),
  ]),
  channels: 'each',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: false,
  ambient: false,
  computes: [
    'Bells and shelves are the analogue prototypes of the W3C Audio EQ Cookbook, H(s) with s = jf/f₀, taken to digital filters of second order whose level follows them to 20 kHz: poles and zeros begin by the matched z-transform and are moved by least squares (K. Levenberg, 1944; D. Marquardt, 1963) of the levels. A cut of a bell or a shelf is one over its lift.',
    'Cuts are Butterworth filters by the bilinear transform, −3.01 dB at their corner.',
    'A cut whose corner leaps by more than a quarter of an octave, or whose slope or switch changes, runs beside what it was before and crosses over from it in 120 frames, 2.5 ms at least, by t⁵ (126 − 420t + 540t² − 315t³ + 70t⁴). So does a shelf or a bell whose frequency leaps so far, or that is switched on or off. What takes over begins as if what comes had stood for long, and hears it set off from there by the same curve.',
  ],
  measured: [
    'Bells of every Q, and shelves up to a Q of 2, lie within 0.5 dB of their prototypes from 20 Hz to 20 kHz at 44.1, 48, 96 and 192 kHz. Shelves of a higher Q resonate where they should, and may be off by some decibels above 15 kHz at 44.1 and 48 kHz.',
    'What the engine gives is what the curve shows, within 0.02 dB.',
  ],
  curves: ['response'],
  bands: EQUALIZER_BANDS,
  bandResponseAt: (band, hertz, params, sampleRate) =>
    bandResponse(EQUALIZER_BANDS[band]!, params, hertz, sampleRate),
  bandAlone: (band, params) => bandAlone(EQUALIZER_BANDS[band]!, params),
  transferAt: (hertz, params, sampleRate) =>
    sectionsTransfer(equalizerSections(params, sampleRate), hertz, sampleRate),
  responseAt,
  packed: true,
  rows: true,
  latency: () => 0,
  direct: (params, { sampleRate }) => ({ delay: 0, gain: gainOf(responseAt(1000, params, sampleRate)) }),
  stateBytes: () =>
    LANE_HEADER_BYTES + EQUALIZER_SECTIONS * 8 + 2 * CUT_BYTES + INNER_BANDS.length * BAND_BYTES,
  leaps: ['lowCut', 'highCut', 'bandPlaces', 'bandsAtOnce'],
  engineParams(params, { sampleRate }) {
    const of = (bands: readonly Band[]) => {
      const floats: number[] = [];
      for (const band of bands) for (const value of ask(band, params, sampleRate).floats) floats.push(value);
      return floats;
    };
    const cut = (band: Band) => [placeOf(band, params), ...of([band])];
    const inner = of(INNER_BANDS);
    return {
      lowCut: cut(EQUALIZER_BANDS[0]!),
      bands: inner,
      highCut: cut(EQUALIZER_BANDS.at(-1)!),
      /** Frames in which a cut that leaps has crossed over. */
      fade: numberJumpFrames(sampleRate),
      bandPlaces: INNER_BANDS.map((band) => bandPlaceOf(band, params)),
      /** What the bands are sent to, for those that leap. */
      bandsAtOnce: inner,
    };
  },
};
