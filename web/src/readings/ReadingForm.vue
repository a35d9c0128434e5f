<script setup lang="ts">
import { computed, ref, toRef } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import JudgementLine from "../parts/JudgementLine.vue";
import DrawnControl from "./DrawnControl.vue";
import InputField from "./InputField.vue";
import { minutesSince } from "./context";
import { useReading, type Kept, type Listed, type Values } from "./useReading";
import { inUs, outcome, told } from "./units";

/** A reading as it is taken: the picture, what it comes to, and everything else by keyboard. */
const props = defineProps<{
  listed: Listed;
  known?: Values;
  first?: Values;
  from?: Record<string, string>;
  keepable?: boolean;
  devices?: Schemas["InstrumentOut"][];
}>();
const emit = defineEmits<{ keep: [given: Kept, told: Record<string, number>] }>();
const { t } = useI18n();
const listed = toRef(props, "listed");
const r = useReading(
  () => listed.value,
  () => props.known ?? {},
  () => props.first ?? {},
);
const { values, result, says, away, ready, missing } = r;
/** What is kept: figures as they were understood, without what the machine's own file gives. */
function keep() {
  const known = props.known ?? {};
  const understood = result.value?.inputs ?? {};
  const given = Object.fromEntries(Object.entries(understood).filter(([key]) => !(key in known)));
  // A hand that changes what an instrument told takes its place on the page; both are kept.
  const changed = Object.entries(tookFrom.value).filter(([key, value]) => given[key] !== value);
  emit("keep", given, Object.fromEntries(changed));
}
/** What was taken from an instrument by a tap. */
const tookFrom = ref<Record<string, number>>({});
function take(g: { figures: { key: string }[]; now: Record<string, number> }) {
  for (const f of g.figures) {
    r.give(f.key, g.now[f.key]!);
    tookFrom.value = { ...tookFrom.value, [f.key]: g.now[f.key]! };
  }
}
/** Instruments that the hand has left. */
const differs = computed(() => listed.value.inputs.filter((i) => i.key in tookFrom.value && values[i.key] !== tookFrom.value[i.key]));

const inputs = computed(() =>
  listed.value.inputs.filter(
    (i) =>
      !(i.key in (props.known ?? {})) &&
      !(i.without in (props.known ?? {})) &&
      !(i.many && ["nuts", "tyre-set", "cells"].includes(listed.value.control) && i.key !== "cold"),
  ),
);
const main = computed(() => inputs.value.filter((i) => i.needed || i.known === null || r.touched.value.has(i.key)));
const rest = computed(() => inputs.value.filter((i) => !main.value.includes(i)));
const machine = computed(() => listed.value.inputs.filter((i) => i.key in (props.known ?? {}) && typeof props.known![i.key] === "number"));
/** Devices that tell figures which this reading asks for, and do not fill them by themselves. */
const gauges = computed(() =>
  (props.devices ?? []).flatMap((d) => {
    const figures = d.figures.filter((f) => !f.fills && f.key in d.now && listed.value.inputs.some((i) => i.key === f.key && !i.many));
    return figures.length ? [{ key: d.key, title: d.title, figures, simulated: d.simulated, now: d.now, minutes: minutesSince(d.at) }] : [];
  }),
);
const ghost = computed(() => (listed.value.control === "glass" ? (result.value?.value ?? null) : null));
/** The corrections of a glass, each in words: what was taken out and how much. */
const parts = computed(() =>
  (["posture", "temperature", "tilt"] as const).flatMap((k) =>
    result.value && listed.value.control === "glass" && k in result.value.more ? [{ k, v: Math.round(100 * result.value.more[k]!) }] : [],
  ),
);
const range = computed(() => {
  const v = result.value;
  if (!v || v.low == null || v.high == null || v.low === v.high) return "";
  void inUs.value;
  const end = (x: number) => outcome(x, v.unit, v.us, listed.value.control);
  return v.unit === ""
    ? t("reading.range", { low: end(v.low), high: end(v.high) })
    : t("reading.range", { low: told(v.low, "", v.us && { ...v.us, unit: "" }), high: end(v.high) });
});
</script>

<template>
  <div class="reading" data-test="reading">
    <div class="picture"><DrawnControl :listed="listed" :values="values" :known="known ?? {}" :ghost="ghost" @give="r.give" /></div>
    <div class="outcome" aria-live="polite">
      <template v-if="result">
        <p v-if="result.value != null && outcome(result.value, result.unit, result.us, listed.control)">
          <span class="big" data-test="value">{{ outcome(result.value, result.unit, result.us, listed.control) }}</span>{{ " "
          }}<span class="quiet">{{ range }}</span>
        </p>
        <p v-if="parts.length" class="quiet">
          {{ parts.map((p) => t(`reading.part.${p.k}`, { v: (p.v > 0 ? "+" : "") + p.v })).join(" · ") }}
        </p>
        <JudgementLine :judgement="result.judgement" />
        <ul class="figures">
          <li v-for="f in result.judgement.figures" :key="f.name">
            {{ f.name }}: <b>{{ Number(f.value.toPrecision(4)) }} {{ f.unit }}</b>
          </li>
        </ul>
      </template>
      <p v-else-if="away" class="quiet">{{ t("reading.away") }}</p>
      <p v-else-if="missing.length" class="quiet">{{ t("reading.missing", { names: missing.map((m) => m.name).join(", ") }) }}</p>
      <p v-if="says && !listed.inputs.some((i) => says!.field.split('.')[0] === i.key)" role="alert">{{ says.text }}</p>
      <slot :result="result" />
      <button
        v-if="keepable"
        type="button"
        class="button primary"
        :disabled="!ready || !result || result.judgement.band === 'refused'"
        data-test="keep"
        @click="keep">
        {{ t("reading.keep") }}
      </button>
    </div>
    <div v-for="g in gauges" :key="g.key" class="row wrap">
      <button type="button" class="button" :data-test="`take-${g.key}`" @click="take(g)">
        {{ t("instrument.take", { name: g.title }) }}</button><span class="quiet"
        >{{ g.figures.map((f) => `${f.name}: ${told(g.now[f.key]!, f.unit, f.us)}`).join(" · ")
        }}<template v-if="g.simulated"> · {{ t("instrument.simulated") }}</template> · {{ t("instrument.ago", { n: g.minutes }) }}</span
      >
    </div>
    <p v-if="differs.length" class="quiet" data-test="both-kept">
      {{ t("instrument.bothKept", { names: differs.map((i) => `${i.name}: ${told(tookFrom[i.key]!, i.unit, i.us)}`).join(" · ") }) }}
    </p>
    <div class="inputs">
      <InputField
        v-for="i in main"
        :key="i.key"
        :input="i"
        :value="values[i.key]"
        :says="says && says.field.split('.')[0] === i.key ? says.text : ''"
        :from="!r.touched.value.has(i.key) ? (from?.[i.key] ?? '') : ''"
        @give="(v) => r.give(i.key, v)" />
    </div>
    <p v-if="machine.length" class="quiet">
      {{ t("reading.machineSays") }} {{ machine.map((i) => `${i.name}: ${told(known![i.key] as number, i.unit, i.us)}`).join(" · ") }}
    </p>
    <details v-if="rest.length">
      <summary>{{ t("reading.rest") }}</summary>
      <div class="inputs">
        <InputField
          v-for="i in rest"
          :key="i.key"
          :input="i"
          :value="values[i.key]"
          :says="says && says.field.split('.')[0] === i.key ? says.text : ''"
          :from="from?.[i.key] ?? ''"
          @give="(v) => r.give(i.key, v)" />
      </div>
    </details>
    <p class="quiet">{{ t("reading.sources") }} {{ listed.sources.join("; ") }}</p>
  </div>
</template>

<style scoped>
.reading { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 16px 24px; align-items: start; }
.reading > :nth-child(n + 3) { grid-column: 1 / -1; }
.picture:empty { display: none; } .picture:empty + .outcome { grid-column: 1 / -1; }
.outcome { display: grid; gap: 10px; align-content: start; min-width: 0; } .big { font-size: 34px; font-weight: 640; }
.figures { list-style: none; margin: 0; padding: 0; display: grid; gap: 3px; font-size: 16px; color: var(--soft); }
.inputs { display: grid; grid-template-columns: repeat(auto-fill, minmax(220px, 1fr)); gap: 14px 18px; } details .inputs { margin-top: 12px; }
summary { min-height: 56px; display: flex; align-items: center; cursor: pointer; font-weight: 560; }
@media (max-width: 700px) { .reading { grid-template-columns: minmax(0, 1fr); } .big { font-size: 28px; } }
</style>
