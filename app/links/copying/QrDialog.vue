<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { QrModules } from '#core/placing';
import { qrProblems, qrSvg } from '#core/placing';
import { saveFile } from '../../data/saveFile.ts';
import { useNotice } from '../../shell/notice.ts';
import type { Correction } from './drawQr.ts';
import { corrections, modulesOf, qrPng } from './drawQr.ts';

/** A QR code of a link for print: as large as it is printed, in the person's own colours, with the address under it. */
const open = defineModel<boolean>({ required: true });
const props = defineProps<{ address: string; fileName: string }>();
const notice = useNotice();

const millimetres = ref<number | null>(40);
const correction = ref<Correction>('M');
const dark = ref('#1f2a25');
const light = ref('#ffffff');
const hasCaption = ref(true);
const modules = shallowRef<QrModules | undefined>();
const failed = ref('');
watch(
  [() => props.address, correction],
  async ([address, level]) => {
    failed.value = '';
    try {
      const made = await modulesOf(address, level);
      if (address === props.address && level === correction.value) modules.value = made;
    } catch {
      modules.value = undefined;
      failed.value =
        'The address is too long for a QR code that can get so dirty. Choose less, or a shorter one.';
    }
  },
  { immediate: true },
);
const look = computed(() => ({
  millimetres: millimetres.value ?? 40,
  dark: dark.value,
  light: light.value,
  caption: hasCaption.value ? props.address.replace(/^https?:\/\//, '') : '',
}));
const problems = computed(() => (modules.value ? qrProblems(modules.value, look.value) : []));
const svg = computed(() => (modules.value ? qrSvg(modules.value, look.value) : ''));
const picture = computed(() => `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg.value)}`);
const isReady = computed(() => svg.value !== '' && problems.value.length === 0);
const saveSvg = () => saveFile(`${props.fileName}.svg`, 'image/svg+xml', svg.value);
const savePng = async () => {
  if (!modules.value) return;
  try {
    saveFile(`${props.fileName}.png`, 'image/png', await qrPng(modules.value, look.value));
  } catch (error) {
    notice.say(error instanceof Error ? error.message : String(error));
  }
};
</script>

<template>
  <v-dialog v-model="open" max-width="620" aria-label="QR code">
    <div class="qr">
      <h2>QR code</h2>
      <div class="sides">
        <figure>
          <img v-if="svg !== ''" :src="picture" :alt="`QR code of ${address}`" />
        </figure>
        <div class="fields">
          <v-number-input v-model="millimetres" :min="10" :max="1000" label="Width in millimetres" />
          <v-select v-model="correction" :items="[...corrections]" label="Still read when" />
          <div class="colours">
            <v-text-field v-model="dark" type="color" label="Dark" />
            <v-text-field v-model="light" type="color" label="Light" />
          </div>
          <v-checkbox v-model="hasCaption" label="The address under it" />
          <p v-if="failed !== ''" class="bad" role="alert">{{ failed }}</p>
          <p v-for="problem in problems" :key="problem" class="bad" role="alert">{{ problem }}</p>
          <div class="buttons">
            <v-btn color="primary" :disabled="!isReady" @click="saveSvg">Save SVG</v-btn>
            <v-btn class="quiet-button" :disabled="!isReady" @click="savePng">Save PNG, 300 dpi</v-btn>
            <v-btn class="quiet-button" @click="open = false">Close</v-btn>
          </div>
        </div>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.qr {
  padding: 18px 20px 16px;
  font-size: 14px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
  overflow: auto;
}
.sides {
  display: flex;
  flex-wrap: wrap;
  gap: 20px;
  margin-top: 12px;
}
figure {
  flex: 1 1 200px;
  margin: 0;
}
img {
  width: 100%;
  max-width: 260px;
  border: 1px solid var(--line);
}
.fields {
  flex: 1 1 280px;
  display: grid;
  gap: 10px;
  align-content: start;
}
.colours {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.bad {
  margin: 0;
  font-size: 13px;
  color: var(--copper);
}
</style>
