import { useEventListener } from "@vueuse/core";
import type { Ref } from "vue";

import type { useLap } from "./useLap";
import type { useTaps } from "./useTaps";

/** The walk by keyboard alone. */
export function useWalkKeys(lap: ReturnType<typeof useLap>, taps: ReturnType<typeof useTaps>, cards: Ref<HTMLElement | null>) {
  useEventListener(window, "keydown", (e: KeyboardEvent) => {
    const el = e.target as HTMLElement;
    if (taps.drawer.value || taps.dialog.value || el.closest("input, textarea, [role=slider]") || e.ctrlKey || e.metaKey || e.altKey)
      return;
    const points = lap.points.value;
    const i = points.findIndex((c) => c.id === taps.focused.value);
    const c = points[i];
    const step = (by: number) => {
      const to = points[Math.min(points.length - 1, Math.max(0, i + by))];
      if (to) taps.focus(to.id);
    };
    const act: Record<string, () => void> = {
      ArrowDown: () => step(1),
      j: () => step(1),
      ArrowUp: () => step(-1),
      k: () => step(-1),
      s: () => c && !c.reading && void taps.sound(c),
      d: () => c && taps.defect(c),
      n: () => c && taps.ask("unseen", c),
      m: () => cards.value?.querySelector<HTMLElement>(`[data-test="cp-${c?.id}"] .title`)?.click(),
      u: () => void taps.undo(),
      ArrowRight: () => void lap.onward(),
    };
    if (act[e.key]) {
      e.preventDefault();
      act[e.key]!();
    }
  });
}
