import { defineStore } from 'pinia';
import { ref } from 'vue';

export interface Notice {
  readonly id: number;
  readonly kind: 'done' | 'refused';
  readonly text: string;
}

/** What the application has to say: refusals stay until they are closed or a new one comes. */
export const useNotices = defineStore('notices', () => {
  const list = ref<Notice[]>([]);
  let next = 1;
  const close = (id: number) => {
    list.value = list.value.filter((n) => n.id !== id);
  };
  const say = (kind: Notice['kind'], text: string) => {
    const notice = { id: next++, kind, text };
    list.value = [...list.value.filter((n) => n.text !== text).slice(-3), notice];
    setTimeout(() => close(notice.id), kind === 'done' ? 4000 : 12000);
  };
  return {
    list,
    close,
    done: (text: string) => say('done', text),
    refused: (error: unknown) => say('refused', error instanceof Error ? error.message : String(error)),
  };
});
