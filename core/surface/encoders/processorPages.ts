import type { Parameter, Processor } from '../../processors/description';

/** Controls that a group of parameters takes on a row of encoders. */
const GROUP = 4;
/** Encoders of the usual row. */
export const ENCODERS = 8;

export interface EncoderPage {
  /** What the page is called on a display: `Low cut, Low shelf`. */
  readonly name: string;
  /** One parameter an encoder; null where it does nothing. */
  readonly encoders: readonly (Parameter | null)[];
}

/**
 * A processor's parameters along a row of encoders, in pages: each group takes four, so that a band of an equalizer always
 * lies under the same hand and, on eight, two lie side by side. A row of fewer than four shows as many as it has.
 */
export function processorPages(processor: Processor, encoders = ENCODERS): readonly EncoderPage[] {
  const size = Math.min(GROUP, encoders);
  const groups: { name: string; list: Parameter[] }[] = [];
  for (const p of processor.parameters) {
    const last = groups.at(-1);
    const name = p.group ?? '';
    if (last && last.name === name && last.list.length < size) last.list.push(p);
    else groups.push({ name, list: [p] });
  }
  const pages: EncoderPage[] = [];
  const perPage = Math.max(1, Math.floor(encoders / GROUP));
  for (let i = 0; i < groups.length; i += perPage) {
    const together = groups.slice(i, i + perPage);
    pages.push({
      name: together
        .map((g) => g.name)
        .filter(Boolean)
        .join(', '),
      encoders: Array.from(
        { length: encoders },
        (_, k) => together[Math.floor(k / size)]?.list[k % size] ?? null,
      ),
    });
  }
  return pages;
}
