import { createI18n } from 'vue-i18n';

/** What a room of the page says, in one language: a line a key. `{name}` takes a value, `one | many` a count. */
export type Texts = Readonly<Record<string, string>>;

/** The page's texts, all rooms' under their names. English is there from the start, and stands in where another language has a gap. */
export const i18n = createI18n({
  legacy: false,
  locale: 'en',
  fallbackLocale: 'en',
  messages: { en: {} },
  missingWarn: false,
  fallbackWarn: false,
});

/** What needs no values, in the language of the page. */
const plain = new Map<string, string>();

/**
 * Adds a room's texts in one language.
 * @param language BCP 47, as the files in `texts/` are named
 */
export function addTexts(language: string, room: string, lines: Texts): void {
  i18n.global.mergeLocaleMessage(language, { [room]: lines });
  plain.clear();
}

/** Switches to a language whose texts have been added; what was drawn before keeps its words. */
export function useLanguage(language: string): void {
  plain.clear();
  i18n.global.locale.value = language as 'en';
  if (typeof document !== 'undefined') document.documentElement.lang = language;
}

/**
 * What a room says by. Each room of the page has its own, in `texts/index.ts`: its keys are checked by the compiler.
 * @returns the text for a key in the language of the page, with values set in, and in the form that goes with a count
 */
export function texts<T extends Texts>(room: string, english: T) {
  addTexts('en', room, english);
  return (key: keyof T & string, values?: Readonly<Record<string, unknown>>, count?: number): string => {
    const path = `${room}.${key}`;
    if (values) return count === undefined ? i18n.global.t(path, values) : i18n.global.t(path, values, count);
    // What is always the same is said hundreds of times when the Sheet is drawn.
    const said = plain.get(path) ?? i18n.global.t(path);
    plain.set(path, said);
    return said;
  };
}
