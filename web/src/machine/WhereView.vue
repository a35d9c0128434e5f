<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSays, useWholeMachine } from "../data/queries";
import PlanMap from "../walkaround/PlanMap.vue";
import SideMap from "../walkaround/SideMap.vue";
import { findCheckpoints } from "./find";
import { figure } from "../app/language";
import PageState from "../parts/PageState.vue";

type Checkpoint = Schemas["CheckpointOut"];
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const { data, error } = useWholeMachine(props.machine);
const walk = computed(() => data.value ?? null);
const says = useSays(error);
const words = ref("");
const chosen = ref("");

const found = computed(() => findCheckpoints(walk.value?.checkpoints ?? [], words.value));
const one = computed(() => found.value.find((c) => c.id === chosen.value) ?? found.value[0] ?? null);
const station = computed(() => walk.value?.stations.find((s) => s.id === one.value?.station) ?? null);
const number = computed(() => (walk.value?.stations ?? []).findIndex((s) => s.id === station.value?.id) + 1);
const spot = computed(() =>
  one.value && words.value.trim() ? { x: one.value.at[0], y: one.value.at[1], z: one.value.at[2], part: one.value.part } : null,
);

/** What has to be done before one may stand there: the steps that are checked, the only safe side. */
const reach = computed(() =>
  [
    ...new Set(
      (walk.value?.rules ?? [])
        .filter((r) => r.then === station.value?.id && r.first !== walk.value?.stations[0]?.id && station.value?.level !== "cab")
        .map((r) => r.says),
    ),
  ].join(" "),
);

/** What is on the machine, by what it belongs to: for who cannot think of the word. */
const bySystem = computed(() => {
  const all = new Map<string, Checkpoint[]>();
  for (const c of walk.value?.checkpoints ?? []) all.set(c.system, [...(all.get(c.system) ?? []), c]);
  return [...all.entries()].sort((a, b) => a[0].localeCompare(b[0]));
});
const stationOf = (c: Checkpoint) => {
  const n = (walk.value?.stations ?? []).findIndex((s) => s.id === c.station);
  return t("where.at", { n: n + 1, name: walk.value?.stations[n]?.name ?? "" });
};
function pick(c: Checkpoint) {
  words.value = c.name;
  chosen.value = c.id;
  window.scrollTo({ top: 0 });
}

function pickStation(id: string) {
  const first = walk.value?.checkpoints.find((c) => c.station === id);
  if (first) {
    words.value = walk.value!.stations.find((s) => s.id === id)!.name;
    chosen.value = first.id;
  }
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("where.title", { name: walk?.machine.name ?? "" }) }}</h1>
    <PageState :says="says" :waits="!walk" />
    <ElInput
      v-model="words"
      size="large"
      clearable
      :placeholder="t('where.hint')"
      :aria-label="t('where.search')"
      data-test="where"
      autofocus
      @input="chosen = ''" />
    <div v-if="walk" class="two">
      <div class="stack">
        <div class="card plan">
          <PlanMap :walk="walk" :here="spot && station ? station.id : ''" :done="new Set()" :pins="[]" :spot="spot" @go="pickStation" />
        </div>
        <div class="card side"><SideMap :walk="walk" :from="spot ? one!.side : 'left'" :pins="[]" :spot="spot" /></div>
      </div>
      <section v-if="words.trim()" class="stack" aria-live="polite">
        <p v-if="!found.length">{{ t("where.none", { words }) }}</p>
        <article v-if="one && station" class="card stack" data-test="found">
          <h2>{{ one.name }}</h2>
          <p>
            <b>{{ t("where.stand") }}</b> {{ t("where.standAt", { n: number, name: station.name, stance: station.stance }) }}
          </p>
          <p>
            <b>{{ t("where.level") }}</b> {{ t(`level.${station.level}`) }} · {{ t("card.height", { z: figure(one.at[2], 1) }) }}
          </p>
          <p v-if="reach">
            <b>{{ t("where.reach") }}</b> {{ reach }}
          </p>
          <p>
            <b>{{ t("where.good") }}</b> {{ one.look }}
          </p>
          <p>
            <b>{{ t("card.how") }}</b> {{ one.how }}
          </p>
          <p>
            <b>{{ t("card.why") }}</b> {{ one.why }}
          </p>
          <p class="quiet">{{ t(`engine.${one.engine}`) }} · {{ one.system }}</p>
          <p v-for="c in one.cautions" :key="c" class="caution">{{ c }}</p>
        </article>
        <div class="chips">
          <button v-for="c in found.slice(0, 8)" v-show="c.id !== one?.id" :key="c.id" type="button" class="button" @click="chosen = c.id">
            {{ c.name }}
          </button>
        </div>
      </section>
      <section v-else class="stack">
        <p class="quiet">{{ t("where.start", { n: walk.checkpoints.length }) }}</p>
        <details v-for="[system, parts] in bySystem" :key="system" class="card" :data-test="`system-${system}`">
          <summary>
            <b>{{ system }}</b> <span class="quiet">{{ parts.length }}</span>
          </summary>
          <ul>
            <li v-for="c in parts" :key="c.id">
              <button type="button" class="button part" @click="pick(c)">
                {{ c.name }}<span class="quiet">{{ stationOf(c) }}</span>
              </button>
            </li>
          </ul>
        </details>
      </section>
    </div>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1.15fr 1fr; gap: 20px; align-items: start; }
.plan { height: 350px; padding: 6px; }
.side { height: 270px; padding: 6px; display: flex; }
details { padding-block: 2px; }
summary { cursor: pointer; min-height: 56px; display: flex; gap: 10px; align-items: center; } summary .quiet { margin-left: auto; }
ul { list-style: none; margin: 0; padding: 8px 0 0; display: grid; gap: 8px; }
.part { width: 100%; justify-content: space-between; gap: 12px; text-align: left; }
.caution { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; }
:deep(.el-input__wrapper) { min-height: 60px; font-size: 20px; }
@media (max-width: 800px) { .two { grid-template-columns: 1fr; } .plan { height: 290px; } }
</style>
