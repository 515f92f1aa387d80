import { defineStore } from 'pinia';
import { ref } from 'vue';

/** The one line that tells what was just done, with the way back where there is one. */
export const useNotice = defineStore('notice', () => {
  const text = ref('');
  const undo = ref<(() => void) | undefined>();
  const shown = ref(false);

  const say = (words: string, back?: () => void): void => {
    text.value = words;
    undo.value = back;
    shown.value = true;
  };

  /** Copies a text and says so; says how to help oneself where the browser forbids it. */
  const copy = async (what: string, words: string): Promise<void> => {
    try {
      await navigator.clipboard.writeText(what);
      say(words);
    } catch {
      say(`The browser does not let pages copy here. Copy it by hand: ${what}`);
    }
  };
  return { copy, say, shown, text, undo };
});
