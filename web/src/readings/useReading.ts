import { useDebounceFn } from "@vueuse/core";
import { computed, reactive, ref, watch } from "vue";

import type { Schemas } from "../api/client";
import { latest, takeReading } from "../core/rulebook";
import { fromShown } from "./units";

export type Listed = Schemas["ListedOut"];
export type Input = Schemas["ReadingInputOut"];
export type Value = boolean | number | string | (number | string)[];
/** Inputs as the core understood them, in the units of the list. */
export type Kept = Schemas["ReadResultOut"]["inputs"];
export type Values = Record<string, Value>;

/** Figures as a person types them: "6,3" or "6.3" alone is in the unit that is shown, with a unit it goes as it is. */
export function typed(text: string, one: Input): number | string | undefined {
  const plain = text.trim().replace(",", ".").replace("−", "-");
  if (!plain) return undefined;
  const figure = Number(plain);
  return Number.isFinite(figure) ? fromShown(figure, one.us) : text.trim();
}

/** How long a control rests before it is judged, ms: shorter than a hand notices. */
const SETTLE_MS = 16;

/** One reading while it is taken: what was given so far, and what it comes to. */
export function useReading(listed: () => Listed, known: () => Values, first: () => Values) {
  const values = reactive<Values>({});
  const touched = ref(new Set<string>());
  const result = ref<Schemas["ReadResultOut"] | null>(null);
  const says = ref<{ field: string; text: string } | null>(null);
  const away = ref(false);

  function begin() {
    for (const key of Object.keys(values)) delete values[key];
    Object.assign(values, first());
    touched.value = new Set();
    result.value = null;
    says.value = null;
    void judge();
  }
  function give(key: string, value: Value | undefined) {
    touched.value = new Set([...touched.value, key]);
    if (value === undefined) delete values[key];
    else values[key] = value;
  }
  /** Inputs that only a person can say and has not said yet. */
  const missing = computed(() => listed().inputs.filter((i) => i.needed && !(i.key in known()) && values[i.key] === undefined));
  const given = computed<Values>(() => Object.fromEntries(Object.entries(values).filter(([key]) => !(key in known()))));
  /** A control's start is nobody's reading: one of them has to have been moved. */
  const ready = computed(() => missing.value.length === 0 && (touched.value.size > 0 || listed().inputs.every((i) => i.start === null)));

  const ask = latest((signal) => takeReading(listed().key, { inputs: { ...given.value, ...known() } }, signal));
  const judge = useDebounceFn(async () => {
    if (missing.value.length) {
      result.value = null;
      return;
    }
    const reply = await ask();
    if (reply === null) return;
    away.value = !reply.ok && reply.away;
    result.value = reply.ok ? reply.data : null;
    says.value = !reply.ok && reply.problem ? { field: reply.problem.field ?? "", text: reply.problem.detail } : null;
  }, SETTLE_MS);
  watch([values, listed, known], () => void judge(), { deep: true });
  watch(() => listed().key, begin, { immediate: true });

  return { values, touched, result, says, away, missing, given, ready, give, begin };
}
