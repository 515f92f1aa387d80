<script setup lang="ts">
import { computed } from 'vue';
import type { HopChoices, Restriction } from '#core/catalogue';
import { consequence, isSameWay, waysFrom } from '#core/hop';

/** Every way a link can send its visitors on, each with what it means: the second press, the first opened it. */
const open = defineModel<boolean>({ required: true });
const props = defineProps<{
  /** What it hangs on, and where the focus goes back to. */
  activator: HTMLElement;
  current: HopChoices;
  /** What its domain does. */
  usual: HopChoices;
  host: string;
  restrictions: readonly Restriction[];
  clicks: number;
  repeats: number;
}>();
const emit = defineEmits<{ choose: [choices: HopChoices] }>();

const because = (what: Restriction['what']) => props.restrictions.find((one) => one.what === what)?.because;
const forbidden = (page: HopChoices['page']) =>
  page === 'none' ? undefined : (because('page') ?? (page === 'frame' ? because('frame') : undefined));
const items = computed(() =>
  waysFrom(props.current).map(({ title, choices }) => ({
    title,
    choices,
    why: forbidden(choices.page),
    meaning: consequence(choices, props.clicks, props.repeats),
    isNow: isSameWay(choices, props.current),
    isUsual: isSameWay(choices, props.usual),
  })),
);
/** What goes beside every way: whether the network learns the site the visitor came from. */
const referrer = computed(() => {
  const hides = !props.current.hideReferrer;
  return {
    title: hides ? 'Hide where the visitor came from' : 'Let the network learn the site again',
    meaning: hides
      ? 'The network learns neither the page nor the site.'
      : 'The network learns the site, not the page.',
    isUsual: props.usual.hideReferrer === hides,
    next: { ...props.current, hideReferrer: hides },
  };
});
</script>

<template>
  <v-menu v-model="open" :activator="activator" :open-on-click="false" location="bottom start">
    <v-list class="ways" density="compact" aria-label="How it sends on">
      <v-list-item
        v-for="item in items"
        :key="item.title"
        :active="item.isNow"
        :disabled="item.why !== undefined"
        :aria-current="item.isNow ? 'true' : undefined"
        @click="emit('choose', item.choices)"
      >
        <v-list-item-title>{{ item.title }}</v-list-item-title>
        <p>
          <strong v-if="item.isUsual">What {{ host }} does. </strong>{{ item.why ?? item.meaning }}
        </p>
      </v-list-item>
      <v-list-item class="beside" @click="emit('choose', referrer.next)">
        <v-list-item-title>{{ referrer.title }}</v-list-item-title>
        <p>
          <strong v-if="referrer.isUsual">What {{ host }} does. </strong>{{ referrer.meaning }}
        </p>
      </v-list-item>
    </v-list>
  </v-menu>
</template>

<style scoped>
.beside {
  border-top: 1px solid var(--line);
}
.ways {
  max-width: 380px;
  border-radius: var(--leaf-card);
}
.v-list-item-title {
  letter-spacing: 0;
}
p {
  margin: 1px 0 3px;
  font-size: 13px;
  line-height: 1.35;
  color: var(--ink-two);
  white-space: normal;
}
</style>
