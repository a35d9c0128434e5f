import { useStorage } from "@vueuse/core";
import { computed, ref } from "vue";

import type { Schemas } from "../api/client";
import { figure } from "../app/language";

type Other = Schemas["OtherUnitOut"] | null;

/** Metric, or US: what a person chose on this device, else what is usual on the site. */
const chosen = useStorage<"metric" | "us" | "">("jutrel-units", "");
export const usual = ref<"metric" | "us">("metric");
export const units = computed<"metric" | "us">({ get: () => chosen.value || usual.value, set: (u) => (chosen.value = u) });
export const inUs = computed(() => units.value === "us");

export const shownUnit = (unit: string, us: Other) => (inUs.value && us ? us.unit : unit);
export const toShown = (value: number, us: Other) => (inUs.value && us ? value * us.factor + us.offset : value);
export const fromShown = (value: number, us: Other) => (inUs.value && us ? (value - us.offset) / us.factor : value);

/** As many digits as a person reads: three that count. */
export function digits(value: number): number {
  const size = Math.abs(value);
  return size >= 100 || Number.isInteger(value) ? 0 : size >= 10 ? 1 : size >= 1 ? 2 : 3;
}
/** A figure on an axis or in a table: two decimals at most. */
export const short = (value: number) => figure(value, Math.min(2, digits(value)));
export function told(value: number, unit: string, us: Other): string {
  const shown = toShown(value, us);
  return `${figure(shown, digits(shown))} ${shownUnit(unit, us)}`.trim();
}

/** What a reading came to: a level as a share of the gap between its marks; a bare count stands among the figures. */
export function outcome(value: number, unit: string, us: Other, control: string): string {
  if (unit !== "") return told(value, unit, us);
  return ["stick", "tube", "glass"].includes(control) ? `${figure(100 * value, 0)} %` : "";
}
