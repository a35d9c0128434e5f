<script setup lang="ts">
import { useStorage, watchDebounced } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import LanguageButton from "../app/LanguageButton.vue";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useSays, useYard } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import YardBay from "./YardBay.vue";
import YardList from "./YardList.vue";
import YardOverview from "./YardOverview.vue";
import { order, STATES } from "./action";
import { GROUPINGS, type Grouping } from "./grouping";
import { useDrawings } from "./useDrawings";

const { t } = useI18n();
const session = useSession();
const editor = computed(() => session.may("edit-machines"));
const { data: told, error } = useYard();
const says = useSays(error);
const yard = computed(() => told.value?.yard ?? null);
const route = useRoute();
const router = useRouter();
/** What is picked stands in the address: who comes back, or is sent it, sees the same. */
const asked = (name: string) =>
  computed({
    get: () => String(route.query[name] ?? ""),
    set: (value: string) => void router.replace({ query: { ...route.query, [name]: value || undefined } }),
  });
const only = asked("only");
const words = asked("words");
const by = asked("by");
const grouping = computed<Grouping>(() => GROUPINGS.find((g) => g === by.value) ?? "");
const typed = ref(words.value);
watchDebounced(typed, (now) => (words.value = now.trim()), { debounce: 250 });
const bare = (text: string) => text.toLowerCase().replace(/[\s-]+/g, "");
/** What a machine is found by: number, maker, model, family, who walked it, and what is wrong; a number with or without its dash. */
const said = ({ machine: u, walked_by, signed_by, why, limits }: Schemas["YardMachineOut"]) =>
  bare([u.name, u.maker, u.model, u.family, walked_by, signed_by, why, ...limits].join(" "));
/** What blocks the shift first. */
const inOrder = computed(() => order(yard.value?.machines ?? []));
const sayings = computed(() => new Map(inOrder.value.map((m) => [m, said(m)])));
/** Of many machines those that are asked for. */
const machines = computed(() => {
  const text = bare(typed.value);
  return inOrder.value.filter((m) => (!only.value || m.go === only.value) && (!text || sayings.value.get(m)!.includes(text)));
});
const counts = computed(() => STATES.map((go) => ({ go, n: inOrder.value.filter((m) => m.go === go).length })).filter((c) => c.n));
const paper = ref(false);
const print = async () => {
  shown.value = "list";
  paper.value = true;
  await nextTick();
  window.print();
  paper.value = false;
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
    <div v-if="yard && yard.machines.length > 6" class="chips few" role="group" :aria-label="t('yard.only')">
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
      <input
        v-model="typed"
        class="search"
        data-test="search-yard"
        type="search"
        :placeholder="t('yard.search')"
        :aria-label="t('yard.search')" />
      <select v-if="shown === 'list'" v-model="by" class="by" :aria-label="t('yard.by')" data-test="by">
        <option v-for="g in GROUPINGS" :key="g" :value="g">{{ t(`yard.group.${g || "none"}`) }}</option>
      </select>
    </div>
    <p v-if="yard && !machines.length" class="quiet" role="status">{{ t("yard.noneFits") }}</p>
    <div v-else-if="yard && shown === 'line'" class="bays">
      <YardBay v-for="m in machines" :key="m.machine.id" :machine="m" :drawing="drawings.get(m.drawing)" :length="length" :width="width" />
    </div>
    <YardOverview v-else-if="yard && shown === 'all'" :machines="machines" :drawings="drawings" :length="length" :width="width" />
    <YardList v-else-if="yard" :machines="machines" :by="grouping" :whole="paper" />
    <p v-else class="quiet" role="status">{{ says || t("wait") }}</p>
  </div>
</template>

<style scoped>
.page { padding-top: 10px; }
.head { margin-bottom: 8px; }
.heading { display: flex; align-items: baseline; gap: 14px; flex-wrap: wrap; }
.few { margin-bottom: 10px; } .few .button { gap: 8px; }
.search { flex: 1; min-width: 116px; max-width: 260px; min-height: 56px; border: 2px solid var(--ink); border-radius: 12px; padding: 0 14px; font: inherit; background: var(--card); color: var(--ink); }
.by { min-height: 56px; border: 2px solid var(--ink); border-radius: 12px; padding: 0 10px; font: inherit; background: var(--card); color: var(--ink); }
.without { margin-bottom: 16px; border-left: 5px solid var(--hold); }
/* On a phone it has no room in the frame. */
.tongue { display: none; }
@media (max-width: 700px) {
  .tongue { display: inline-flex; padding: 6px 4px; gap: 4px; } .print { display: none; }
  .head .button { padding: 4px 3px; font-size: 15px; min-width: 56px; } .head .row { gap: 4px; }
  .few { gap: 4px; } .few .button { padding: 0 3px; min-width: 56px; gap: 4px; flex: 1; justify-content: center; font-size: 16px; }
  .few .word { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); } .search { flex: 1 0 100%; max-width: none; } .by { display: none; }
}
.bays { display: grid; grid-template-columns: repeat(auto-fill, minmax(186px, 1fr)); gap: 0; border-top: 3px solid var(--ink); }
@media print { .head .row, .few { display: none; } }
</style>
