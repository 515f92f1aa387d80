<script setup lang="ts">
import { onBeforeUnmount, onMounted, useTemplateRef } from 'vue';
import { EditorState } from '@codemirror/state';
import { MergeView } from '@codemirror/merge';
import { EditorView, lineNumbers } from '@codemirror/view';

/** An article before and after what is accepted, beside each other as text. */
const props = defineProps<{ before: string; after: string }>();
const place = useTemplateRef<HTMLElement>('place');
let view: MergeView | undefined;
onMounted(() => {
  if (!place.value) return;
  const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
  const look = EditorView.theme({
    '&': { fontSize: '12.5px', backgroundColor: 'var(--surface)', color: 'var(--ink)' },
    '.cm-content': { fontFamily: 'var(--mono)' },
    '.cm-gutters': { backgroundColor: 'var(--sunk)', color: 'var(--ink-two)', border: '0' },
    '.cm-changedLineGutter': { background: 'var(--fern)' },
    '&.cm-merge-a .cm-changedLineGutter': { background: 'var(--copper)' },
    '.cm-changedLine': { backgroundColor: 'var(--fern-soft) !important' },
    '.cm-changedText': { background: 'none', textDecoration: 'underline 2px var(--fern)' },
    '&.cm-merge-a .cm-changedLine': { backgroundColor: 'var(--copper-soft) !important' },
    '&.cm-merge-a .cm-changedText': { textDecorationColor: 'var(--copper)' },
  });
  const side = (doc: string, label: string) => ({
    doc,
    extensions: [
      lineNumbers(),
      EditorView.lineWrapping,
      EditorView.editable.of(false),
      EditorState.readOnly.of(true),
      EditorView.cspNonce.of(nonce),
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      look,
    ],
  });
  view = new MergeView({
    a: side(props.before, 'Before'),
    b: side(props.after, 'After'),
    parent: place.value,
    gutter: true,
    collapseUnchanged: { margin: 3, minSize: 6 },
  });
});
onBeforeUnmount(() => view?.destroy());
</script>

<template>
  <div ref="place" class="compare" />
</template>

<style scoped>
.compare {
  overflow: auto;
  max-height: 100%;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
</style>
