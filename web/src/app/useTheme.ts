import { useStorage } from "@vueuse/core";
import { computed, watchEffect } from "vue";

/** In this order a tap goes through them. `sun`: black on white with thick lines, for low sun on the glass. */
const THEMES = ["day", "sun", "night"] as const;
export type Theme = (typeof THEMES)[number];
const asked = (media: string) => window.matchMedia(media).matches;
const theme = useStorage<Theme>(
  "jutrel-theme",
  asked("(prefers-contrast: more)") ? "sun" : asked("(prefers-color-scheme: dark)") ? "night" : "day",
);

watchEffect(() => {
  for (const one of THEMES) document.documentElement.classList.toggle(one, theme.value === one);
});

/** Day, sun and night, kept on the device. */
export function useTheme() {
  const next = computed(() => THEMES[(THEMES.indexOf(theme.value) + 1) % THEMES.length]!);
  return { theme: computed(() => theme.value), next, toggle: () => (theme.value = next.value) };
}
