import { useEventListener, useIntervalFn } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from "vue";

import type { Schemas } from "../api/client";

export type PanelNow = Schemas["PanelOut"];
export type Needle = Schemas["NeedleOut"];
/** A page that heard nothing for so long knows nothing: a value of before is shown as no value. */
const SILENT_MS = 7000;

/** What a machine tells over its bus, as it tells it. `changed` is called when a run has to be judged anew. */
export function usePanel(machine: string, first: Ref<PanelNow | null>, changed: () => void) {
  const panel = shallowRef<PanelNow | null>(first.value);
  const heard = ref(performance.now());
  const silent = ref(false);
  let source: EventSource | null = null;
  const close = () => {
    source?.close();
    source = null;
  };
  function open() {
    close();
    source = new EventSource(`/api/machines/${encodeURIComponent(machine)}/panel/events`);
    source.addEventListener("panel", (e: MessageEvent<string>) => {
      const now = JSON.parse(e.data) as PanelNow;
      if (panel.value && now.at < panel.value.at) return;
      panel.value = now;
      heard.value = performance.now();
      silent.value = false;
    });
  }
  // A machine that is not read has no events; it may be read from now on, as the run itself says.
  watch(
    () => Boolean(first.value),
    (read) => {
      if (read && !source && !document.hidden) open();
    },
    { immediate: true },
  );
  watch(first, (now) => {
    if (now && (!panel.value || now.at > panel.value.at)) panel.value = now;
  });
  useIntervalFn(() => {
    silent.value = performance.now() - heard.value > SILENT_MS;
    if (first.value && !document.hidden && source?.readyState === EventSource.CLOSED) open();
  }, 1000);
  useEventListener(document, "visibilitychange", () => (document.hidden ? close() : first.value && open()));
  onScopeDispose(close);
  const live = computed(() => Boolean(panel.value?.live) && !silent.value);
  const needle = (key: string): Needle | null => {
    const found = panel.value?.needles.find((n) => n.key === key);
    return found ? (live.value ? found : { ...found, value: null, lack: found.lack ?? "lost" }) : null;
  };
  const alerts = computed(() => (live.value ? (panel.value?.alerts ?? []) : []));
  /** What a run goes by: when any of it changes, the run is asked for anew. */
  const sign = computed(() =>
    [
      live.value,
      panel.value?.engine,
      panel.value?.doubt,
      ...alerts.value.map((a) => a.id + a.colour),
      ...(live.value ? (panel.value?.needles ?? []) : []).filter((n) => n.stands).map((n) => n.key),
    ].join(" "),
  );
  watch(sign, changed);
  return { panel, live, alerts, needle };
}
export type UsePanel = ReturnType<typeof usePanel>;
