import { defineStore } from 'pinia';
import { ref } from 'vue';

export interface Notice {
  readonly kind: 'done' | 'refused';
  readonly text: string;
}
/** Notices that are remembered, the newest last. */
const MOST = 4;

/** What the application has to say. */
export const useNotices = defineStore('notices', () => {
  const list = ref<readonly Notice[]>([]);
  const add = (kind: Notice['kind'], text: string) => {
    list.value = [...list.value.filter((n) => n.text !== text).slice(1 - MOST), { kind, text }];
  };
  return {
    list,
    done: (text: string) => add('done', text),
    refused: (error: unknown) => add('refused', error instanceof Error ? error.message : String(error)),
  };
});
