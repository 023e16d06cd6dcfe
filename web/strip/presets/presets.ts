import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { validPreset, type Preset } from '@core/settings/preset';
import { SHIPPED_PRESETS } from '@core/settings/shipped';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';
import { saveFile } from '@/ui/saveFile';
import { say } from '../texts';

/** A preset in the list: one's own has an id, a shipped one has none and stays as it is. */
export interface ListedPreset {
  readonly id: string | null;
  readonly preset: Preset;
}

/** One's own presets, kept in the database for every session, and those that are shipped. */
export const usePresets = defineStore('presets', () => {
  const notices = useNotices();
  const own = shallowRef<readonly ListedPreset[]>([]);
  const all = computed<readonly ListedPreset[]>(() => [
    ...own.value,
    ...SHIPPED_PRESETS.map((preset) => ({ id: null, preset })),
  ]);

  async function tell<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      return await work();
    } catch (error) {
      notices.refused(error);
      return null;
    }
  }
  let asked = 0;
  const load = () =>
    tell(async () => {
      const mine = ++asked;
      const { presets } = await ask<{ presets: ListedPreset[] }>('GET', '/presets');
      // An answer that comes after a later one knows less than that.
      if (mine === asked) own.value = presets;
    });
  /** Keeps a preset; one of the same name and kind is replaced, and can be brought back. */
  const keep = (preset: Preset) =>
    tell(async () => {
      const known = own.value.find((p) => p.preset.name === preset.name && p.preset.kind === preset.kind);
      if (known) await ask('PUT', `/presets/${known.id}`, preset);
      else await ask('POST', '/presets', preset);
      await load();
      notices.done(
        known ? say('nameIsKeptAnew', { name: preset.name }) : say('nameIsKept', { name: preset.name }),
      );
      return known?.preset ?? null;
    });
  const remove = (listed: ListedPreset) =>
    tell(async () => {
      await ask('DELETE', `/presets/${listed.id}`);
      await load();
    });
  /** Reads preset files; what is none is refused by its name. */
  const bringIn = (files: readonly File[]) =>
    tell(async () => {
      for (const file of files) {
        try {
          await keep(validPreset(JSON.parse(await file.text())));
        } catch (error) {
          notices.refused(`${file.name}: ${(error as Error).message}`);
        }
      }
    });
  function save(preset: Preset) {
    const name = preset.name.replace(/[^\p{L}\p{N} _-]+/gu, '_');
    saveFile(`${name}.zonula-preset.json`, 'application/json', `${JSON.stringify(preset, null, 2)}\n`);
  }
  return { own, all, load, keep, remove, bringIn, save };
});
