import { defineStore } from 'pinia';
import { shallowRef } from 'vue';

export interface MenuItem {
  readonly label: string;
  readonly keys?: string;
  readonly checked?: boolean;
  readonly disabled?: boolean;
  readonly danger?: boolean;
  readonly run: () => unknown;
}
/** Where a menu opens: at a point of the page, or below a thing. */
export type MenuPlace = { readonly x: number; readonly y: number } | Element;
export interface OpenMenu {
  readonly x: number;
  readonly y: number;
  readonly title: string;
  readonly items: readonly MenuItem[];
}

/** The one menu of the page: anything can open it where it stands. */
export const useMenu = defineStore('menu', () => {
  const menu = shallowRef<OpenMenu | null>(null);
  function open(title: string, items: readonly MenuItem[], at: MenuPlace) {
    const place =
      at instanceof Element
        ? { x: at.getBoundingClientRect().left, y: at.getBoundingClientRect().bottom }
        : { x: at.x, y: at.y };
    menu.value = { ...place, title, items };
  }
  const close = () => (menu.value = null);
  return { menu, open, close };
});
