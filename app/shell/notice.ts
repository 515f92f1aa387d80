import { defineStore } from 'pinia';
import { ref } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';

/** What can be done about what a notice says. */
interface NoticeAction {
  readonly words: string;
  readonly act: () => void;
}

/** A line as the queue of notices shows it. */
interface Notice {
  readonly id: string;
  readonly text: string;
}

/** Lines that tell what was just done, each with the way back where there is one; the newest takes the place of the one before. */
export const useNotice = defineStore('notice', () => {
  /** What is said and not shown yet; who shows it takes it out. */
  const queue = ref<Notice[]>([]);
  const actions = new Map<string, NoticeAction>();
  let said = 0;

  const say = (words: string, does?: NoticeAction): void => {
    const id = `notice-${++said}`;
    // Only the newest is on the screen, so only its action can be pressed.
    actions.clear();
    if (does) actions.set(id, does);
    queue.value = [...queue.value, { id, text: words }];
  };
  /** What can be done about a line, while it is the newest. */
  const actionOf = (id: string): NoticeAction | undefined => actions.get(id);
  const catalogue = useCatalogue();
  /** Undoes the last step, or the one of an ID, and says so. */
  const undo = async (step?: string): Promise<void> => {
    const undone = await catalogue.undo(step);
    // Why not, or what not, is told where it is found out.
    if (catalogue.refusedUndo !== '') return;
    if (undone)
      say(step === undefined ? 'The last edit is undone.' : 'It is undone.', {
        words: 'Do it again',
        act: () => void redo(),
      });
    else say(step === undefined ? 'There is nothing to undo in this window.' : 'It was undone before.');
  };
  /** Does again what was undone last, and says so. */
  const redo = async (): Promise<void> => {
    const done = await catalogue.redo();
    if (catalogue.refusedUndo === '')
      say(done ? 'It is done again.' : 'There is nothing to do again in this window.');
  };
  /**
   * Tells what was just done, with the way back.
   *
   * @param step what `save` gave: this is undone, also when something else was done since
   * @param after what is to be shown once it is undone
   */
  const did = (words: string, step: string, after?: () => void): void =>
    say(words, { words: 'Undo', act: () => void undo(step).then(() => after?.()) });

  /**
   * Copies a text and says so; says how to help oneself where the browser forbids it.
   *
   * @param what a text; or that for a text field and what a rich editor takes, which lie on the clipboard at once
   */
  const copy = async (
    what: string | { readonly plain: string; readonly html: string },
    words: string,
  ): Promise<void> => {
    const plain = typeof what === 'string' ? what : what.plain;
    try {
      if (typeof what === 'string' || typeof ClipboardItem === 'undefined')
        await navigator.clipboard.writeText(plain);
      else
        await navigator.clipboard.write([
          new ClipboardItem({
            'text/plain': new Blob([what.plain], { type: 'text/plain' }),
            'text/html': new Blob([what.html], { type: 'text/html' }),
          }),
        ]);
      say(words);
    } catch {
      say(`The browser does not let pages copy here. Copy it by hand: ${plain}`);
    }
  };
  return { actionOf, copy, did, queue, redo, say, undo };
});
