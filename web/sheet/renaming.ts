import { defineStore } from 'pinia';
import { ref } from 'vue';

/** Asks the Sheet to let the name of a strip be typed. */
export const useRenaming = defineStore('renaming', () => ({ strip: ref<string | null>(null) }));
