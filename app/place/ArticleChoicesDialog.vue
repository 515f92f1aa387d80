<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ArticleChoices } from '#core/catalogue';
import { disclosureOf } from '#core/placing';

/** How articles are read and changed. */
const props = defineProps<{ choices: ArticleChoices }>();
const emit = defineEmits<{ close: []; save: [choices: ArticleChoices] }>();
const choices = ref<ArticleChoices>(JSON.parse(JSON.stringify(props.choices)) as ArticleChoices);
const never = computed(() =>
  choices.value.never.map((value) => ({ value, title: value.split('|').filter(Boolean).join(', ') })),
);
const usual = disclosureOf('page', 'usual');
const save = () => {
  emit('save', choices.value);
  emit('close');
};
</script>

<template>
  <v-dialog :model-value="true" max-width="620" @update:model-value="!$event && emit('close')">
    <v-card>
      <v-card-title>How articles are read</v-card-title>
      <v-card-text class="fields">
        <div class="numbers">
          <v-number-input v-model="choices.perKeyword" label="Links of one keyword" :min="0" :max="100" />
          <v-number-input v-model="choices.perLink" label="Links to one link" :min="0" :max="100" />
          <v-number-input v-model="choices.perArticle" label="Keyword links in all" :min="0" :max="1000" />
          <v-number-input
            v-model="choices.apart"
            label="Words between two of one link"
            :min="0"
            :max="10000"
          />
        </div>
        <v-checkbox v-model="choices.headings" label="Link keywords in headings too" />
        <v-combobox
          v-model="choices.skip"
          label="Never linked, nor anything in it"
          multiple
          chips
          closable-chips
          hide-no-data
        />
        <v-select
          v-model="choices.markdown"
          label="Links in Markdown are written as"
          :items="[
            { value: 'markdown', title: 'Markdown: the site’s generator or the page script adds the marks' },
            { value: 'html', title: 'HTML, with their marks' },
          ]"
        />
        <v-text-field
          v-model="choices.disclosure"
          label="Put before the first link"
          :placeholder="usual"
          persistent-placeholder
        />
        <v-select
          v-if="never.length > 0"
          v-model="choices.never"
          label="Refused always"
          :items="never"
          multiple
          chips
          closable-chips
        />
      </v-card-text>
      <v-card-actions>
        <v-spacer />
        <v-btn @click="emit('close')">Cancel</v-btn>
        <v-btn color="primary" variant="flat" @click="save">Keep</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 10px;
}
.numbers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  gap: 10px;
}
</style>
