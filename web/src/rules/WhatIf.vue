<script setup lang="ts">
import { computed, reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import ChoiceDrawing from "../parts/ChoiceDrawing.vue";
import GradeMark from "../parts/GradeMark.vue";
import TraceLines from "../parts/TraceLines.vue";

/** A finding that nobody made: change what was seen, where and when, and watch its grade and the reasons. */
const props = defineProps<{ book: Schemas["RulebookOut"]; duty: Schemas["DutyOut"]; regime: string; from: Schemas["RowOut"] | null }>();
const { t } = useI18n();
const mode = ref("");
const values = reactive<Record<string, string>>({});
const facts = reactive({ dark: false, rain: false, people_on_foot: false, overdue: false, third: false, out: false });
const found = ref<Schemas["WhatIfOut"] | null>(null);
const says = ref("");

const modes = computed(() => props.duty.modes.flatMap((id) => props.book.modes.filter((m) => m.id === id)));
const asked = computed(() =>
  (modes.value.find((m) => m.id === mode.value)?.attributes ?? []).flatMap((id) =>
    props.book.attributes.filter((a) => a.id === id && a.choices.length && a.id !== "fluid"),
  ),
);

function start() {
  for (const key of Object.keys(values)) delete values[key];
  mode.value = props.from?.mode || (modes.value[0]?.id ?? "");
  for (const key of props.from?.keys ?? []) values[key.split(".")[0]!] = key.split(".")[1]!;
  const first = asked.value[0];
  if (first && !asked.value.some((a) => values[a.id])) values[first.id] = first.choices[0]!.id;
}
watch([() => props.duty.id, () => props.from?.id], start, { immediate: true });
function choose(id: string) {
  mode.value = id;
  for (const key of Object.keys(values)) delete values[key];
  if (asked.value[0]) values[asked.value[0].id] = asked.value[0].choices[0]!.id;
}
const toggle = (a: string, c: string) => (values[a] === c ? delete values[a] : (values[a] = c));

let asking = 0;
watch(
  [mode, values, facts, () => props.duty.id, () => props.regime],
  async () => {
    const mine = (asking += 1);
    const known = Object.fromEntries(asked.value.flatMap((a) => (values[a.id] ? [[a.id, values[a.id]!]] : [])));
    const { third, out, ...plain } = facts;
    const body = {
      ...plain,
      shifts: third ? 3 : 1,
      out: out ? 2 : 0,
      regime: props.regime,
      duty: props.duty.id,
      failure_mode: mode.value,
      attributes: known,
      checkpoint: null,
    };
    const reply = await call("post", "/api/rulebook/what-if", { body });
    if (mine !== asking) return;
    found.value = reply.ok ? reply.data : null;
    says.value = reply.ok ? "" : (reply.problem?.detail ?? t("connection.awayLong"));
  },
  { immediate: true, deep: true },
);
</script>

<template>
  <section class="card stack what-if" data-test="what-if">
    <h2>{{ t("rules.whatIf") }}</h2>
    <div class="chips">
      <button
        v-for="m in modes"
        :key="m.id"
        type="button"
        class="button"
        :class="{ chosen: m.id === mode }"
        :aria-pressed="m.id === mode"
        :data-test="`if-${m.id}`"
        @click="choose(m.id)">
        {{ m.name }}
      </button>
    </div>
    <div v-for="a in asked" :key="a.id">
      <p class="quiet">{{ a.ask }}</p>
      <div class="chips">
        <button
          v-for="c in a.choices"
          :key="c.id"
          type="button"
          class="button drawn"
          :class="{ chosen: values[a.id] === c.id }"
          :aria-pressed="values[a.id] === c.id"
          :data-test="`if-${a.id}-${c.id}`"
          @click="toggle(a.id, c.id)">
          <ChoiceDrawing :attribute="a.id" :choice="c.id" :duty="duty.id" />{{ c.label }}
        </button>
      </div>
    </div>
    <div class="chips">
      <button
        v-for="(on, key) in facts"
        :key="key"
        type="button"
        class="button"
        :class="{ chosen: on }"
        :aria-pressed="on"
        :data-test="`if-${key}`"
        @click="facts[key] = !on">
        {{ t(`rules.fact.${key}`) }}
      </button>
    </div>
    <div aria-live="polite" class="stack" data-test="if-grade">
      <p v-if="says" role="alert">{{ says }}</p>
      <template v-if="found">
        <p class="row answer">
          <GradeMark :mark="found.grade" :size="56" /><b>{{ t(`mark.${found.grade}`) }}</b
          ><span v-if="found.within_hours">{{ t("rules.within", { n: found.within_hours }) }}</span
          ><span>{{ found.may_put_right ? t("rules.may") : t("rules.mayNot") }}</span>
        </p>
        <p v-for="limit in found.limits" :key="limit">
          <b>{{ limit }}</b>
        </p>
        <TraceLines :trace="found.trace" />
        <p class="quiet">{{ t("rules.at", { place: found.checkpoint }) }}</p>
      </template>
    </div>
  </section>
</template>

<style scoped>
.drawn { flex-direction: column; width: 128px; min-height: 122px; padding: 8px; gap: 4px; font-size: 16px; line-height: 1.2; text-align: center; justify-content: flex-start; }
.chosen { background: var(--ink); color: var(--paper); --wrong: var(--paper); }
.answer { gap: 14px; flex-wrap: wrap; align-items: center; } .answer b { font-size: 26px; }
</style>
