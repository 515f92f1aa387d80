import { onMounted, onUnmounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useNotice } from './notice.ts';
import { usePaste } from './paste.ts';
import { hasMoreThanText, transferOf } from './transfer.ts';
import { views } from './views.ts';

/** Every key and what it does, for the overlay. */
export const keyTable: readonly (readonly [keys: readonly string[], does: string])[] = [
  [['slash'], 'Paste bar'],
  [views.map((_, i) => String(i + 1)), views.map((view) => view.label).join(', ')],
  [['ctrl+v'], 'Paste anywhere: goes to the paste bar'],
  [['up', 'down'], 'Move in a list'],
  [['enter'], 'From the list to the route; edit the section in focus'],
  [['e', 's', 'd', 'h', 'm'], 'In the route: edit entry, split, destination, hop, marks'],
  [['esc'], 'Back'],
  [['ctrl+c'], 'Copy the short link, in the list and in the route'],
  [['ctrl+k'], 'Copy a link: search all of them, from anywhere'],
  [['ctrl+enter'], 'Test the link, not counted; in a form, save'],
  [['ctrl+z'], 'Undo the last edit, also before a reload'],
  [['ctrl+shift+z', 'ctrl+y'], 'Do again what was undone'],
  [['[', ']'], 'In Reconcile the month before and after, in Traffic as many days'],
  [['?'], 'All keys'],
];

/** True while keys belong to a field. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target.closest(
      'input:not([type="checkbox"], [type="radio"], [type="button"]), textarea, select, [role="combobox"], [role="dialog"]',
    ) !== null);

/** The keys that work on every view. Gives whether the overlay of keys, and the search for a link to copy, are open. */
export const useKeys = () => {
  const router = useRouter();
  const paste = usePaste();
  const notice = useNotice();
  const overlay = ref(false);
  const searching = ref(false);

  const onKey = (event: KeyboardEvent): void => {
    const isControl = event.ctrlKey || event.metaKey;
    // While typing too: it types nothing.
    if (isControl && !event.altKey && !event.shiftKey && event.key.toLowerCase() === 'k') {
      event.preventDefault();
      searching.value = !searching.value;
      return;
    }
    if (isTyping(event.target) || event.altKey) return;
    if (isControl) {
      const letter = event.key.toLowerCase();
      if (letter !== 'z' && letter !== 'y') return;
      event.preventDefault();
      void (letter === 'y' || event.shiftKey ? notice.redo() : notice.undo());
      return;
    }
    const view = views[Number(event.key) - 1];
    if (event.key === '/') paste.wanted += 1;
    else if (event.key === '?') overlay.value = true;
    else if (view) void router.push(view.to);
    else return;
    event.preventDefault();
  };
  const onPaste = (event: ClipboardEvent): void => {
    if (isTyping(event.target)) return;
    const transfer = transferOf(event.clipboardData);
    if (transfer.plain === '' && transfer.html === '' && transfer.files.length === 0) return;
    // Otherwise the browser would put it once more into the field that takes the focus now.
    event.preventDefault();
    if (hasMoreThanText(transfer)) void paste.offerTransfer(transfer);
    else paste.offer(transfer.plain);
  };
  // What is dropped beside a field that takes it goes to the paste bar; else the browser would open it in our place.
  const onDragOver = (event: DragEvent): void => {
    if (!isTyping(event.target) && event.dataTransfer?.types.includes('Files')) event.preventDefault();
  };
  const onDrop = (event: DragEvent): void => {
    const transfer = transferOf(event.dataTransfer);
    if (event.defaultPrevented || isTyping(event.target) || transfer.files.length === 0) return;
    event.preventDefault();
    void paste.offerTransfer(transfer);
  };

  onMounted(() => {
    document.addEventListener('keydown', onKey);
    document.addEventListener('paste', onPaste);
    document.addEventListener('dragover', onDragOver);
    document.addEventListener('drop', onDrop);
  });
  onUnmounted(() => {
    document.removeEventListener('keydown', onKey);
    document.removeEventListener('paste', onPaste);
    document.removeEventListener('dragover', onDragOver);
    document.removeEventListener('drop', onDrop);
  });
  return { overlay, searching };
};
