<script setup lang="ts">
import { keyTable } from './keys.ts';

const open = defineModel<boolean>({ required: true });
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-label="Keys">
    <div class="keys" role="document">
      <h2>Keys</h2>
      <small-table>
        <tbody>
          <tr v-for="[keys, does] in keyTable" :key="does">
            <td class="all"><v-hotkey v-for="one in keys" :key="one" :keys="one" /></td>
            <td>{{ does }}</td>
          </tr>
        </tbody>
      </small-table>
      <v-btn color="primary" autofocus @click="open = false">Close</v-btn>
    </div>
  </v-dialog>
</template>

<style scoped>
.keys {
  padding: 22px;
  background: var(--surface);
  color: var(--ink);
  border-radius: var(--leaf-card);
}
.keys .small-table {
  margin: 12px 0 18px;
}
.all {
  white-space: nowrap;
}
.all > * + * {
  margin-left: 5px;
}
.keys td {
  padding: 4px 18px 4px 0;
}
</style>
