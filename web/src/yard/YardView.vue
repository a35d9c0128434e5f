<script setup lang="ts">
import { useStorage } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import LanguageButton from "../app/LanguageButton.vue";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useSays, useYard } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import YardBay from "./YardBay.vue";
import YardOverview from "./YardOverview.vue";
import { actionOf, order, STATES } from "./action";
import { useDrawings } from "./useDrawings";

const { t } = useI18n();
const session = useSession();
const editor = computed(() => session.may("edit-machines"));
const { data: told, error } = useYard();
const says = useSays(error);
const yard = computed(() => told.value?.yard ?? null);
const only = ref("");
const words = ref("");
/** What blocks the shift first; of many machines those that are asked for. */
const machines = computed(() =>
  order(yard.value?.machines ?? []).filter(
    (m) =>
      (!only.value || m.go === only.value) &&
      (!words.value.trim() ||
        `${m.machine.name} ${m.machine.model} ${m.machine.family}`.toLowerCase().includes(words.value.trim().toLowerCase())),
  ),
);
const counts = computed(() =>
  STATES.map((go) => ({ go, n: (yard.value?.machines ?? []).filter((m) => m.go === go).length })).filter((c) => c.n),
);
const print = async () => {
  shown.value = "list";
  await nextTick();
  window.print();
};
// What was told before is not taken for how it stands while the server gives no answer.
const stale = computed(() => Boolean(told.value?.stale || error.value));
const { drawings, want } = useDrawings();
watch(yard, (now) => void want((now?.machines ?? []).map((m) => m.drawing)), { immediate: true });
const shown = useStorage<"line" | "list" | "all">("jutrel-yard", window.innerWidth < 700 ? "list" : "line");

/** The longest and the widest machine set the scale of the whole line. */
const length = computed(() => Math.max(6, ...[...drawings.values()].map((d) => d.bounds[2] - d.bounds[0])) + 0.6);
const width = computed(() => Math.max(3.6, ...[...drawings.values()].map((d) => d.bounds[3] - d.bounds[1])) + 0.2);
const when = (at: string | null) => (at ? dayAndTime(at, session.zone) : "");
</script>

<template>
  <div class="page">
    <div class="row spread wrap head">
      <div class="heading">
        <h1>{{ t("yard.title") }}</h1>
        <p class="quiet">
          {{ yard?.site }}<template v-if="stale && yard"> · {{ t("yard.stale", { at: when(told?.at ?? null) }) }}</template>
        </p>
      </div>
      <div class="row wrap" role="group" :aria-label="t('yard.view')">
        <button type="button" class="button" :class="{ chosen: shown === 'line' }" :aria-pressed="shown === 'line'" @click="shown = 'line'">
          {{ t("yard.line") }}
        </button>
        <button type="button" class="button" :class="{ chosen: shown === 'list' }" :aria-pressed="shown === 'list'" @click="shown = 'list'">
          {{ t("yard.list") }}
        </button>
        <button
          type="button"
          class="button"
          :class="{ chosen: shown === 'all' }"
          :aria-pressed="shown === 'all'"
          data-test="overview"
          @click="shown = 'all'">
          {{ t("yard.overview") }}
        </button>
        <LanguageButton class="tongue" />
        <button type="button" class="button print" data-test="print" @click="print">{{ t("yard.print") }}</button>
        <RouterLink v-if="editor" class="button" to="/machines/new" data-test="add-machine">{{ t("file.add") }}</RouterLink>
      </div>
    </div>
    <p v-if="stale || (says && !yard)" class="card without" role="status" data-test="without">{{ t("connection.without") }}</p>
    <div v-if="yard && yard.machines.length > 12" class="chips few" role="group" :aria-label="t('yard.only')">
      <button type="button" class="button" :class="{ chosen: !only }" :aria-pressed="!only" @click="only = ''">
        {{ t("yard.all", { n: yard.machines.length }) }}
      </button>
      <button
        v-for="c in counts"
        :key="c.go"
        type="button"
        class="button"
        :class="{ chosen: only === c.go }"
        :aria-pressed="only === c.go"
        :data-test="`only-${c.go}`"
        @click="only = only === c.go ? '' : c.go">
        <GradeMark :mark="c.go" :size="26" silent /><span class="word">{{ t(`mark.${c.go}`) }}</span> {{ c.n }}
      </button>
      <input v-model="words" class="search" type="search" :placeholder="t('yard.search')" :aria-label="t('yard.search')" />
    </div>
    <div v-if="yard && shown === 'line'" class="bays">
      <YardBay v-for="m in machines" :key="m.machine.id" :machine="m" :drawing="drawings.get(m.drawing)" :length="length" :width="width" />
    </div>
    <YardOverview v-else-if="yard && shown === 'all'" :machines="machines" :drawings="drawings" :length="length" :width="width" />
    <ul v-else-if="yard" class="list">
      <li v-for="m in machines" :key="m.machine.id" class="card" :data-test="`row-${m.machine.id}`">
        <GradeMark :mark="m.go" :size="48" silent />
        <div class="grow">
          <h2 class="h3">
            <RouterLink class="file" :to="{ name: 'machine', params: { machine: m.machine.id } }">{{ m.machine.name }}</RouterLink> ·
            {{ t(`mark.${m.go}`) }}
          </h2>
          <p>{{ m.why }}</p>
          <p v-for="l in m.limits" :key="l" class="limit">{{ l }}</p>
          <p v-if="m.current" class="quiet">{{ t("yard.under", { name: m.walked_by, n: m.answered, of: m.planned }) }}</p>
          <p v-else-if="m.signed_by" class="quiet">{{ t("yard.signed", { name: m.signed_by, at: when(m.signed_at) }) }}</p>
        </div>
        <div class="doing">
          <RouterLink v-if="m.last" class="button" :to="{ name: 'record', params: { inspection: m.last } }">{{
            t("yard.record")
          }}</RouterLink>
          <RouterLink
            class="button"
            :class="{ primary: actionOf(m) !== 'again' }"
            :to="
              m.current
                ? { name: 'walk', params: { machine: m.machine.id, inspection: m.current } }
                : { name: 'approach', params: { machine: m.machine.id } }
            "
            >{{ t(`yard.${actionOf(m)}`) }}</RouterLink
          >
        </div>
      </li>
    </ul>
    <p v-else class="quiet" role="status">{{ says || t("wait") }}</p>
  </div>
</template>

<style scoped>
.page { padding-top: 10px; }
.head { margin-bottom: 8px; }
.heading { display: flex; align-items: baseline; gap: 14px; flex-wrap: wrap; }
.few { margin-bottom: 10px; } .few .button { gap: 8px; }
.search { flex: 1; min-width: 116px; max-width: 260px; min-height: 56px; border: 2px solid var(--ink); border-radius: 12px; padding: 0 14px; font: inherit; background: var(--card); color: var(--ink); }
.without { margin-bottom: 16px; border-left: 5px solid var(--hold); }
/* On a phone it has no room in the frame. */
.tongue { display: none; }
@media (max-width: 700px) { .tongue { display: inline-flex; } .print { display: none; } .few .button { padding: 0 12px; } .few .word { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); } }
.bays { display: grid; grid-template-columns: repeat(auto-fill, minmax(186px, 1fr)); gap: 0; border-top: 3px solid var(--ink); }
.list { list-style: none; margin: 0; padding: 0; display: grid; gap: 12px; }
.list li { display: flex; gap: 18px; align-items: flex-start; }
.grow { flex: 1; min-width: 0; }
.limit { font-weight: 620; }
.file { color: var(--ink); }
.doing { display: flex; flex-direction: column; gap: 12px; }
@media print { .head .row, .few, .doing { display: none; } .list { gap: 0; } .list li { break-inside: avoid; border: 0; border-bottom: 1px solid #000; border-radius: 0; } }
@media (max-width: 700px) { .list li { flex-wrap: wrap; } .doing { width: 100%; flex-direction: row; } .doing .button { flex: 1; } .grow { min-width: 200px; } }
</style>
