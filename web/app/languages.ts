import { addTexts, useLanguage, type Texts } from '@/ui/language';

/** Texts of other languages than English, fetched when they are asked for: `../sheet/texts/de.json` and so on. */
export type TextFiles = Readonly<Record<string, () => Promise<{ readonly default: Texts }>>>;
const FILES: TextFiles = import.meta.glob<{ default: Texts }>(['../*/texts/*.json', '!../*/texts/en.json']);
const named = (path: string) => /([^/]+)\/texts\/([^/]+)\.json$/.exec(path)!;

/** The first of a reader's languages that there are texts in; English where there is none. @param wanted BCP 47, as a browser lists them */
export function languageFor(wanted: readonly string[], files: TextFiles = FILES): string {
  const there = new Set(['en', ...Object.keys(files).map((path) => named(path)[2]!)]);
  for (const tag of wanted) {
    const found = [tag, tag.split('-')[0]!].find((t) => there.has(t));
    if (found) return found;
  }
  return 'en';
}

/** Fetches the texts of a language, of all rooms that have some, and speaks it from then on. */
export async function speak(language: string, files: TextFiles = FILES): Promise<void> {
  await Promise.all(
    Object.entries(files).map(async ([path, fetch]) => {
      const [, room, of] = named(path);
      if (of === language) addTexts(language, room!, (await fetch()).default);
    }),
  );
  useLanguage(language);
}
