import type { Parameter, Processor } from '../processors/description';

/** Controls that a group of parameters takes on a row of encoders. */
const GROUP = 4;
/** Encoders of a row. */
export const ENCODERS = 8;

export interface EncoderPage {
  /** What the page is called on a display: `Low cut, Low shelf`. */
  readonly name: string;
  /** One parameter an encoder; null where it does nothing. */
  readonly encoders: readonly (Parameter | null)[];
}

/**
 * A processor's parameters along eight encoders, in pages: each group takes four, so that a band of an equalizer always
 * lies under the same hand and two lie side by side.
 */
export function processorPages(processor: Processor): readonly EncoderPage[] {
  const groups: { name: string; list: Parameter[] }[] = [];
  for (const p of processor.parameters) {
    const last = groups.at(-1);
    const name = p.group ?? '';
    if (last && last.name === name && last.list.length < GROUP) last.list.push(p);
    else groups.push({ name, list: [p] });
  }
  const pages: EncoderPage[] = [];
  for (let i = 0; i < groups.length; i += ENCODERS / GROUP) {
    const pair = groups.slice(i, i + ENCODERS / GROUP);
    pages.push({
      name: pair
        .map((g) => g.name)
        .filter(Boolean)
        .join(', '),
      encoders: Array.from(
        { length: ENCODERS },
        (_, k) => pair[Math.floor(k / GROUP)]?.list[k % GROUP] ?? null,
      ),
    });
  }
  return pages;
}
