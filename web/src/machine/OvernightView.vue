<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useMachineFile, useOvernight, useSays, useWholeMachine } from "../data/queries";
import PageState from "../parts/PageState.vue";
import PinnedPlan from "../parts/PinnedPlan.vue";

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
const DIFFERS: ReadonlySet<string> = new Set(["new", "worse", "gone"]);
/** What is otherwise, numbered: on the drawing where it is, and in the lists. */
const { data: whole } = useWholeMachine(props.machine);
const differ = computed(() => [
  // A level that changed by no more than it can be read to is no difference.
  ...(data.value?.lost ?? [])
    .filter((x) => Math.abs(x.litres) > x.unsure)
    .map((x) => ({ key: x.checkpoint, checkpoint: x.checkpoint, title: x.place })),
  ...groups.value
    .filter((g) => DIFFERS.has(g.change))
    .flatMap((g) => g.rows.map((c) => ({ key: c.checkpoint + c.failure, checkpoint: c.checkpoint, title: `${c.place}: ${c.failure}` }))),
]);
const pins = computed(() =>
  differ.value.map((d, i) => ({
    key: d.key,
    n: i + 1,
    title: d.title,
    at: whole.value?.checkpoints.find((c) => c.id === d.checkpoint)?.at ?? null,
  })),
);
const numberOf = (key: string) => pins.value.find((p) => p.key === key)?.n;
const toRow = (key: string) => document.getElementById(`row-${key}`)?.scrollIntoView({ block: "center" });
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
      <section v-if="whole && pins.length" class="card">
        <PinnedPlan :drawing="whole.drawing" :pins="pins" :label="t('overnight.drawn')" @pick="toRow" />
      </section>
      <section v-if="data.lost.length" class="card stack">
        <h2>{{ t("overnight.levels") }}</h2>
        <div v-for="x in data.lost" :id="`row-${x.checkpoint}`" :key="x.checkpoint" :data-test="`lost-${x.checkpoint}`">
          <h3>
            <b v-if="numberOf(x.checkpoint)" class="n">{{ numberOf(x.checkpoint) }}</b> {{ x.place }}
          </h3>
          <p class="big figure">{{ t("overnight.litres", { n: figure(-x.litres, 1) }) }}</p>
          <p>{{ x.says }}</p>
        </div>
      </section>
      <section v-for="g in groups" :key="g.change" class="card stack" :data-test="`change-${g.change}`">
        <h2>{{ t(`overnight.change.${g.change}`) }}</h2>
        <div v-for="c in g.rows" :id="`row-${c.checkpoint}${c.failure}`" :key="c.checkpoint + c.failure" class="two">
          <h3>
            <b v-if="numberOf(c.checkpoint + c.failure)" class="n">{{ numberOf(c.checkpoint + c.failure) }}</b> {{ c.place }}:
            {{ c.failure }}
          </h3>
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
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: minmax(200px, 1.2fr) 1fr 1fr; gap: 16px; align-items: start; border-top: 1px solid var(--line); padding-top: 10px; }
h3, p { margin: 0; overflow-wrap: anywhere; } small { display: block; font-size: 15px; }
.big { font-size: 34px; }
.n { display: inline-grid; place-items: center; min-width: 30px; height: 30px; border-radius: 15px; background: var(--here); color: var(--card); font-size: 17px; }
@media (max-width: 800px) { .two { grid-template-columns: 1fr 1fr; } .two h3 { grid-column: 1 / -1; } }
</style>
