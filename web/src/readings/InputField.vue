<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { typed, type Input, type Value } from "./useReading";
import { digits, inUs, shownUnit, toShown } from "./units";

/** One input by keyboard: a figure with or without a unit, a choice, yes or no, or several figures. */
const props = defineProps<{ input: Input; value: Value | undefined; says: string; from: string; locked?: boolean }>();
const emit = defineEmits<{ give: [value: Value | undefined] }>();
const { t } = useI18n();

function shown(value: Value | undefined): string {
  if (value === undefined || typeof value === "boolean") return "";
  if (Array.isArray(value)) return value.map((v) => shown(v)).join("; ");
  if (typeof value === "string") return value;
  const v = toShown(value, props.input.us);
  return Number.isInteger(v) ? String(v) : figure(v, Math.max(digits(v), props.input.unit === "" ? 2 : 0));
}
const text = ref(shown(props.value));
watch([() => props.value, inUs], () => (text.value = shown(props.value)));
function commit() {
  if (text.value === shown(props.value)) return;
  if (props.input.many) {
    const many = text.value.split(/[;\s]+(?=[-\d−.,])/).flatMap((x) => typed(x.replace(/;$/, ""), props.input) ?? []);
    emit("give", many.length ? many : undefined);
  } else {
    emit("give", typed(text.value, props.input));
  }
}
const label = computed(() => props.input.name);
const hint = computed(() =>
  t("reading.between", {
    low: figure(toShown(props.input.low, props.input.us), digits(toShown(props.input.low, props.input.us))),
    high: figure(toShown(props.input.high, props.input.us), digits(toShown(props.input.high, props.input.us))),
    unit: shownUnit(props.input.unit, props.input.us),
  }),
);
</script>

<template>
  <div class="field" :class="{ wrong: says }">
    <template v-if="input.choices.length">
      <span :id="`l-${input.key}`" class="name">{{ label }}</span>
      <div class="chips" role="group" :aria-labelledby="`l-${input.key}`">
        <button
          v-for="(c, n) in input.choices"
          :key="c"
          type="button"
          class="button"
          :class="{ chosen: (value ?? input.default) === c }"
          :aria-pressed="(value ?? input.default) === c"
          :disabled="locked"
          :data-test="`in-${input.key}-${c}`"
          @click="emit('give', c)">
          {{ input.choice_names[n] }}
        </button>
      </div>
    </template>
    <button
      v-else-if="input.flag"
      type="button"
      class="button"
      :class="{ chosen: value ?? input.default }"
      :aria-pressed="Boolean(value ?? input.default)"
      :disabled="locked"
      :data-test="`in-${input.key}`"
      @click="emit('give', !(value ?? input.default))">
      {{ label }}
    </button>
    <label v-else>
      <span class="name"
        >{{ label }}<span v-if="!input.needed" class="quiet"> · {{ t("reading.optional") }}</span></span
      >
      <ElInput
        v-model="text"
        :placeholder="input.default != null && value === undefined ? shown(input.default as Value) : ''"
        :disabled="locked"
        maxlength="60"
        :inputmode="input.many ? 'text' : 'text'"
        :data-test="`in-${input.key}`"
        :aria-invalid="Boolean(says)"
        @blur="commit"
        @keydown.enter.prevent="commit"
        ><template v-if="input.unit" #append>{{ shownUnit(input.unit, input.us) }}</template></ElInput
      >
    </label>
    <p v-if="says" role="alert" class="says">
      {{ says }} <span v-if="!input.choices.length && !input.flag">{{ hint }}</span>
    </p>
    <p v-else-if="from" class="quiet">{{ from }}</p>
    <p v-else-if="input.help" class="quiet">{{ input.help }}</p>
  </div>
</template>

<style scoped>
.field { display: grid; gap: 4px; min-width: 0; align-content: start; } label { display: grid; gap: 4px; } .name { font-size: 16px; font-weight: 560; }
.chips { display: flex; gap: 10px; flex-wrap: wrap; } .chips .button { padding: 6px 14px; } .says { color: var(--hold); font-weight: 560; } .quiet { font-size: 15px; }
</style>
