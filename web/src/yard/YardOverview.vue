<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import GradeMark from "../parts/GradeMark.vue";
import MachinePlan from "../parts/MachinePlan.vue";

/** All machines on one screen: drawn to one scale, how each stands, and in a line why. */
const props = defineProps<{
  machines: Schemas["YardMachineOut"][];
  drawings: ReadonlyMap<string, Schemas["DrawingOut"]>;
  length: number;
  width: number;
}>();
const { t } = useI18n();
const tiles = computed(() =>
  props.machines.map((m) => {
    const drawing = props.drawings.get(m.drawing);
    const [x0, y0, x1, y1] = drawing?.bounds ?? [-3, -1.5, 3, 1.5];
    return {
      m,
      drawing,
      box: `${(x0 + x1) / 2 - props.length / 2} ${(y0 + y1) / 2 - props.width / 2} ${props.length} ${props.width}`,
      why: m.limits[0] ?? m.why,
    };
  }),
);
</script>

<template>
  <ul class="tiles">
    <li v-for="{ m, drawing, box, why } in tiles" :key="m.machine.id" :data-test="`tile-${m.machine.id}`">
      <RouterLink class="tile" :to="{ name: 'machine', params: { machine: m.machine.id } }" :title="m.why">
        <span class="name"
          ><GradeMark :mark="m.go" :size="34" silent /><span
            ><b>{{ m.machine.name }}</b
            ><span class="word">{{ t(`mark.${m.go}`) }}</span></span
          ></span
        >
        <svg :viewBox="box" class="from-above" aria-hidden="true"><MachinePlan v-if="drawing" :drawing="drawing" /></svg>
        <span class="why">{{ why }}</span>
      </RouterLink>
    </li>
  </ul>
</template>

<style scoped>
.tiles { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(176px, 1fr)); gap: 8px; }
.tile { display: flex; flex-direction: column; gap: 4px; height: 100%; min-height: 150px; padding: 8px 10px; border: 2px solid var(--ink); border-radius: 10px; color: var(--ink); text-decoration: none; background: var(--card); }
.tile:hover b, .tile:focus-visible b { text-decoration: underline; }
.name { display: flex; gap: 8px; align-items: center; line-height: 1.1; }
.name > span { display: flex; flex-direction: column; min-width: 0; }
.name b { font-size: 19px; }
.word { font-weight: 620; font-size: 14px; }
.from-above { width: 100%; height: 52px; }
.why { font-size: 14px; line-height: 1.25; display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; }
@media (max-width: 700px) {
  .tiles { grid-template-columns: repeat(3, 1fr); gap: 6px; }
  .tile { min-height: 74px; padding: 6px; } .name { flex-wrap: wrap; gap: 2px 6px; } .name b { font-size: 16px; }
  .from-above, .why { display: none; }
}
</style>
