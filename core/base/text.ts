/** Whether a text has no U+0000 and no half of a surrogate pair. */
export const isKeepable = (text: string): boolean => !/[\0\p{Surrogate}]/u.test(text);

/** Made when it is first needed: to make it takes longer than many a text. */
let graphemes: Intl.Segmenter | null = null;

/**
 * A text as it can be kept, cut to a length between two characters as a reader counts them (UAX 29, extended grapheme clusters):
 * an emoji or an accented letter is there whole, or not at all.
 * @param most UTF-16 units, as limits of lengths count them
 */
export function keepable(text: string, most: number): string {
  const whole = text.replace(/[\0\p{Surrogate}]/gu, '');
  if (whole.length <= most) return whole;
  graphemes ??= new Intl.Segmenter(undefined, { granularity: 'grapheme' });
  let end = 0;
  for (const { index, segment } of graphemes.segment(whole)) {
    if (index + segment.length > most) break;
    end = index + segment.length;
  }
  return whole.slice(0, end);
}
