import { useStorage } from "@vueuse/core";
import { computed, watchEffect } from "vue";

const theme = useStorage<"day" | "night">("jutrel-theme", window.matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day");

watchEffect(() => document.documentElement.classList.toggle("night", theme.value === "night"));

/** Day and night, kept on the device. */
export function useTheme() {
  return { night: computed(() => theme.value === "night"), toggle: () => (theme.value = theme.value === "night" ? "day" : "night") };
}
