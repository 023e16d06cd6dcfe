import { afterEach, describe, expect, it } from 'vitest';
import { say } from '@/sheet/texts';
import { useLanguage, type Texts } from '@/ui/language';
import { languageFor, speak, type TextFiles } from './languages';

const roomIn = (path: string) => /\.\.\/([^/]+)\//.exec(path)?.[1] ?? 'app';
const texts = Object.entries(
  import.meta.glob<Texts>('../*/texts/en.json', { eager: true, import: 'default' }),
).map(([path, lines]) => [roomIn(path), lines] as const);
const files = Object.entries(
  import.meta.glob<string>(['../**/*.{ts,vue}', '!../**/*.test.ts'], {
    eager: true,
    query: '?raw',
    import: 'default',
  }),
);
const sourceOf = (room: string): string =>
  files
    .filter(([path]) => roomIn(path) === room)
    .map(([, source]) => source)
    .join('\n');

describe('what the page says', () => {
  it('is all used', () => {
    expect(texts.length).toBeGreaterThan(10);
    const unused = texts.flatMap(([room, lines]) => {
      const source = sourceOf(room);
      // `group${group}` and the like: what the rest of the key may be is held by the compiler.
      const made = [...source.matchAll(/say\(`(\w+)\$\{/g)].map((m) => m[1]!);
      return Object.keys(lines)
        .filter((key) => !source.includes(`'${key}'`) && !made.some((m) => key.startsWith(m)))
        .map((key) => `${room}.${key}`);
    });
    expect(unused).toEqual([]);
  });

  it('is given every value that it names', () => {
    const missing = texts.flatMap(([room, lines]) => {
      const source = sourceOf(room);
      return Object.entries(lines).flatMap(([key, text]) =>
        [...text.matchAll(/\{(\w+)\}/g)]
          .map((m) => m[1]!)
          .filter(
            (name) =>
              !source
                .split(`'${key}'`)
                .slice(1)
                .some((after) => new RegExp(`\\b${name}\\b`).test(after.slice(0, 900))),
          )
          .map((name) => `${room}.${key}: {${name}}`),
      );
    });
    expect(missing).toEqual([]);
  });
});

describe('another language', () => {
  const there: TextFiles = {
    '../sheet/texts/xx.json': async () => ({
      default: { mute: 'Dämpfe', hiddenHidden: '{hidden} verborgen' },
    }),
    '../flow/texts/xx.json': async () => ({ default: {} }),
  };
  afterEach(() => useLanguage('en'));

  it('is taken when a reader asks for it and it is there', () => {
    expect(languageFor(['yy-YY', 'xx-XX', 'en'], there)).toBe('xx');
    expect(languageFor(['yy'], there)).toBe('en');
    expect(languageFor(['en-GB', 'xx'], there)).toBe('en');
    expect(languageFor(['xx'])).toBe('en');
  });
  it('is spoken where it has words, with values set in; English where it has none', async () => {
    await speak('xx', there);
    expect(say('mute')).toBe('Dämpfe');
    expect(say('hiddenHidden', { hidden: 3 })).toBe('3 verborgen');
    expect(say('solo')).toBe('solo');
    useLanguage('en');
    expect(say('mute')).toBe('mute');
  });
});
