<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useMachineFile, useOvernight, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";

/** The machine as it was left and as it was found: what is otherwise. It says nothing of why, and of nobody. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const session = useSession();
const { data: file } = useMachineFile(props.machine);
const { data, error } = useOvernight(props.machine);
const says = useSays(error);
const ORDER = ["new", "worse", "gone", "same", "not-looked-at"] as const;
const groups = computed(() =>
  ORDER.map((change) => ({ change, rows: (data.value?.changes ?? []).filter((c) => c.change === change) })).filter((g) => g.rows.length),
);
const at = (time: string) => dayAndTime(time, session.zone);
</script>

<template>
  <div class="page stack">
    <h1>{{ t("overnight.title", { name: file?.machine.name ?? machine }) }}</h1>
    <PageState :says="says" :waits="data === undefined" />
    <p v-if="data === null" class="quiet" data-test="never">{{ t("overnight.never") }}</p>
    <template v-else-if="data">
      <p data-test="window">
        <b>{{ t("overnight.window", { from: at(data.parked_at), to: at(data.found_at) }) }}</b>
        {{ t("overnight.who", { left: data.parked_by, found: data.found_by }) }}
      </p>
      <p class="quiet">{{ t("overnight.fair") }}</p>
      <section v-if="data.lost.length" class="card stack">
        <h2>{{ t("overnight.levels") }}</h2>
        <div v-for="x in data.lost" :key="x.checkpoint" :data-test="`lost-${x.checkpoint}`">
          <h3>{{ x.place }}</h3>
          <p class="big figure">{{ t("overnight.litres", { n: figure(-x.litres, 1) }) }}</p>
          <p>{{ x.says }}</p>
        </div>
      </section>
      <section v-for="g in groups" :key="g.change" class="card stack" :data-test="`change-${g.change}`">
        <h2>{{ t(`overnight.change.${g.change}`) }}</h2>
        <div v-for="c in g.rows" :key="c.checkpoint + c.failure" class="two">
          <h3>{{ c.place }}: {{ c.failure }}</h3>
          <p>
            <small class="quiet">{{ t("overnight.evening") }}</small>{{ c.evening || t("overnight.nothing") }}
          </p>
          <p>
            <small class="quiet">{{ t("overnight.morning") }}</small>{{ c.morning || t("overnight.nothing") }}
          </p>
        </div>
      </section>
      <p v-if="!groups.length && !data.lost.length" data-test="same">{{ t("overnight.same") }}</p>
    </template>
    <p v-else class="quiet">{{ t("wait") }}</p>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: minmax(200px, 1.2fr) 1fr 1fr; gap: 16px; align-items: start; border-top: 1px solid var(--line); padding-top: 10px; }
h3, p { margin: 0; overflow-wrap: anywhere; } small { display: block; font-size: 15px; }
.big { font-size: 34px; }
@media (max-width: 800px) { .two { grid-template-columns: 1fr 1fr; } .two h3 { grid-column: 1 / -1; } }
</style>
