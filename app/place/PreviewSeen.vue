<script setup lang="ts">
import { ref, watch } from 'vue';
import { getPicture } from '../data/server.ts';
import { traceOnce } from '../data/trace.ts';

/** What a place shows that makes a preview of the link by itself, found by asking the hop as such a robot. */
const props = defineProps<{ address: string; link: string }>();
interface Seen {
  readonly title: string;
  readonly description: string;
  readonly picture: string;
  readonly host: string;
  readonly because: string;
}
const seen = ref<Seen | undefined>();
const picture = ref('');
const asking = ref(false);
const forget = () => {
  if (picture.value !== '') URL.revokeObjectURL(picture.value);
  picture.value = '';
  seen.value = undefined;
};
watch(() => props.address, forget);
const ask = async () => {
  forget();
  asking.value = true;
  const found = await traceOnce(props.address, props.link, true);
  asking.value = false;
  const last = found?.hops.at(-1);
  seen.value = {
    title: found?.page?.title ?? '',
    description: found?.page?.description ?? '',
    picture: found?.page?.picture ?? '',
    host: last ? new URL(last.url).host : '',
    because: found ? found.because : 'The server did not answer.',
  };
  if (seen.value.picture === '') return;
  const blob = await getPicture(seen.value.picture).catch(() => undefined);
  if (blob) picture.value = URL.createObjectURL(blob);
};
</script>

<template>
  <section aria-label="Preview">
    <p class="line">
      <text-link :disabled="asking" @click="ask">{{
        asking ? 'Asking…' : 'What a preview of this link shows'
      }}</text-link>
    </p>
    <div v-if="seen" class="seen" role="status">
      <template v-if="seen.title !== '' || seen.picture !== ''">
        <img v-if="picture !== ''" :src="picture" alt="The picture of the preview" />
        <div>
          <strong>{{ seen.title || 'no title' }}</strong>
          <p v-if="seen.description !== ''">{{ seen.description }}</p>
          <p class="quiet">
            {{ seen.host
            }}{{ seen.picture === '' ? ', no picture' : picture === '' ? ', its picture did not come' : '' }}
          </p>
        </div>
      </template>
      <p v-else>No preview: {{ seen.because }}</p>
    </div>
  </section>
</template>

<style scoped>
.seen {
  display: flex;
  gap: 12px;
  align-items: start;
  margin-top: 8px;
  padding: 12px 14px;
  background: var(--sunk);
  border-radius: var(--leaf-card);
}
img {
  max-width: 140px;
  max-height: 100px;
  border-radius: 8px 2px;
}
p {
  margin: 0;
}
</style>
