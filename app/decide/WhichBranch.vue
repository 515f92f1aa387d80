<script setup lang="ts">
import { computed } from 'vue';
import type { Link } from '#core/catalogue';
import { branchDays } from '#core/catalogue';
import { describeConditions, everyoneElse } from '#core/hop';
import type { BranchGroup, BranchLine } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import { count, perClick } from '../theme/formats.ts';
import BandCell from './BandCell.vue';
import { daysBefore, wholeMoney } from './words.ts';

/** The branches of a link's splits side by side: what came of each, which is better, and how sure that is. */
const props = defineProps<{ link: Link }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const { period } = useOwnDays();
const currency = computed(() => catalogue.settings.currency);
const { found } = useNewest<readonly BranchGroup[]>(
  () => [journal.news, props.link, currency.value, catalogue.rates, period.value],
  () => {
    const to = period.value[1];
    const from = daysBefore(to, branchDays);
    return journalWorker.whichBranch({
      ...{ link: props.link.id, from, to, currency: currency.value, now: Date.now() },
    });
  },
  [],
);
const groups = computed(() => found.value.filter(({ lines }) => lines.some(({ visitors }) => visitors > 0)));
const nameOf = (branch: string): string => {
  const known = props.link.branches?.find(({ id }) => id === branch);
  return (
    known?.name ||
    (branch === everyoneElse ? 'Everyone else' : describeConditions(known?.when ?? {}) || branch)
  );
};
const axisOf = ({ lines }: BranchGroup): readonly [number, number] => {
  const bands = lines.flatMap(({ band }) => band ?? []);
  const [low, high] = [
    Math.min(0, ...bands.map((band) => band.low)),
    Math.max(0, ...bands.map((band) => band.high)),
  ];
  const margin = (high - low || 1) * 0.06;
  return [low, high + margin];
};
const figuresOf = ({ band, earned, visitors }: BranchLine) => ({ band, profit: earned, visitors });
/** What is made of a branch beside the one that earns most a visitor. */
const verdictOf = (
  { beside, band, visitors, unpriced }: BranchLine,
  { lines, monthly }: BranchGroup,
): string => {
  if (unpriced) return `no rate of ${unpriced.currency} up to ${unpriced.day}: Setup takes one`;
  if (!band) return 'not known yet';
  if (!beside) return lines.some((line) => line.beside?.verdict === 'worse') ? 'better' : 'earns most so far';
  switch (beside.verdict) {
    case 'worse':
    case 'better':
      return `${beside.verdict}, by at least ${perClick(Math.min(Math.abs(beside.difference.low), Math.abs(beside.difference.high)), currency.value)} a visitor`;
    case 'no difference':
      return `no difference worth ${wholeMoney(beside.atMost, currency.value)} a month`;
    case 'wait':
      return 'wait: too few sales are known, or most are still to come';
    case 'keep testing': {
      const { needed = Infinity } = beside;
      if (needed === Infinity) return 'keep testing: so far both earn the same';
      const days = Math.ceil((needed / monthly) * 30);
      const share = visitors / lines.reduce((sum, line) => sum + line.visitors, 0);
      return `keep testing, ${count(days)} ${days === 1 ? 'day' : 'days'} more at this rate; it takes ${Math.round(share * 100)} % of visitors meanwhile`;
    }
  }
};
const weightNow = (id: string): number | undefined =>
  id === everyoneElse ? (props.link.weight ?? 1) : props.link.branches?.find((one) => one.id === id)?.weight;
/** Nine of ten visitors go to one branch, and the tenth is shared by the others, so that these are still seen; a weight of nought stays. */
const prefer = async (group: BranchGroup, branch: string) => {
  const others = group.lines.map((line) => line.branch).filter((id) => id !== branch && weightNow(id) !== 0);
  const weightOf = (id: string) => (id === branch ? 9 * Math.max(1, others.length) : 1);
  const ids = new Set([branch, ...others]);
  const { weight: _, ...rest } = props.link;
  const own = ids.has(everyoneElse) ? weightOf(everyoneElse) : (props.link.weight ?? 1);
  const step = await catalogue.saveRecord('link', {
    ...rest,
    branches: (props.link.branches ?? []).map((one) =>
      ids.has(one.id) ? { ...one, weight: weightOf(one.id) } : one,
    ),
    ...(own !== 1 && { weight: own }),
  });
  notice.did(`Nine of ten visitors go to ${nameOf(branch)}.`, step);
};
</script>

<template>
  <div v-for="group in groups" :key="JSON.stringify(group.when)" class="group">
    <h3>
      Which branch?<template v-if="describeConditions(group.when)">
        {{ describeConditions(group.when) }}</template
      >
    </h3>
    <small-table :aria-label="`Which branch ${describeConditions(group.when)}`.trim()">
      <thead>
        <tr>
          <th>Branch</th>
          <th class="number">Visitors</th>
          <th class="number">Sales</th>
          <th>Earned a visitor</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in group.lines" :key="line.branch">
          <td>
            {{ nameOf(line.branch) }}<small class="quiet">{{ verdictOf(line, group) }}</small>
          </td>
          <td class="number">{{ count(line.visitors) }}</td>
          <td class="number">{{ count(line.conversions) }}</td>
          <td class="band">
            <band-cell :figures="figuresOf(line)" :axis="axisOf(group)" :currency="currency" />
          </td>
        </tr>
      </tbody>
    </small-table>
    <p v-if="link.movesWeights" class="quiet">
      Weights move by themselves: each branch keeps at least {{ link.movesWeights.least }} %.
    </p>
    <text-link v-else-if="group.lines[0]?.band" @click="prefer(group, group.lines[0].branch)"
      >Send nine of ten to {{ nameOf(group.lines[0].branch) }}</text-link
    >
  </div>
</template>

<style scoped>
.group {
  margin-top: 10px;
}
p {
  margin: 4px 0 0;
  font-size: 13px;
}
h3 {
  margin: 0 0 2px;
  font-size: 13px;
}
.number {
  text-align: end;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.band {
  width: 34%;
  min-width: 110px;
}
small {
  display: block;
  font-size: 12px;
}
</style>
