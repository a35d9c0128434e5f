<script setup lang="ts">
import { useI18n } from "vue-i18n";

import FileButton from "../parts/FileButton.vue";
import type { useLap } from "./useLap";
import type { useTaps } from "./useTaps";
import type { useWalk } from "./useWalk";

/** What can be done from anywhere at a station, and the one way on. */
defineProps<{ w: ReturnType<typeof useWalk>; lap: ReturnType<typeof useLap>; taps: ReturnType<typeof useTaps> }>();
const { t } = useI18n();
</script>

<template>
  <footer class="bar">
    <button type="button" class="button" :disabled="!w.undoable.value" data-test="undo" @click="taps.undo">{{ t("walk.undo") }}</button>
    <button type="button" class="button" data-test="note" @click="taps.askNote">{{ t("walk.note") }}</button>
    <FileButton mark test="photo-here" @file="taps.photoHere">{{ t("walk.photo") }}</FileButton>
    <p class="quiet ahead">
      {{
        lap.next.value
          ? t("walk.ahead", {
              name: lap.next.value.station.name,
              m: Math.round(lap.next.value.metres),
              s: Math.round(lap.next.value.seconds + lap.next.value.station.look_s),
            })
          : lap.other.value.size
            ? t("way.mineDone", lap.other.value.size)
            : t("walk.aheadVerdict")
      }}
    </p>
    <button type="button" class="button primary" data-test="onward" @click="lap.onward">
      {{
        lap.next.value
          ? t(lap.leftAt(lap.here.value) ? "walk.onLeft" : "walk.on", {
              n: lap.steps.value.indexOf(lap.next.value) + 1,
              left: lap.leftAt(lap.here.value),
            })
          : t("walk.toVerdict")
      }}
      →
    </button>
  </footer>
</template>

<style scoped>
.bar { grid-column: 1 / -1; border-top: 1px solid var(--line); background: var(--card); display: flex; align-items: center; gap: 12px; padding: 0 24px; }
.ahead { flex: 1; text-align: center; }
.bar .primary { min-width: 250px; }
@media (max-width: 1000px) {
  .bar { position: fixed; bottom: 0; left: 0; right: 0; padding: 8px 12px; z-index: 4; }
  .ahead { display: none; } .bar .primary { flex: 1; min-width: 0; } .bar :deep(.button) { padding: 8px 12px; }
}
@media (max-width: 700px) { .bar { gap: 8px; padding: 8px; } .bar .primary { font-size: 16px; padding: 6px; } }
</style>
