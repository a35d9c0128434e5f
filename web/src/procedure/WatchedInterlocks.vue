<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { RunNow, UseRun } from "./useRun";

/** What has to hold while the engine turns; one tap says that it holds no longer, one that it does again. */
const props = defineProps<{ run: RunNow; r: UseRun }>();
const { t } = useI18n();
/** As this hand said last, if the server has not heard it yet. */
const watched = computed(() =>
  props.run.steps.filter((s) => s.watched).map((step) => ({ step, holds: (props.r.lastSaid(step.id)?.outcome ?? step.mark) === "done" })),
);
</script>

<template>
  <section v-if="watched.length" class="card" data-test="interlocks">
    <h2 class="h3">{{ t("run.watched") }}</h2>
    <div class="chips">
      <button
        v-for="{ step: s, holds } in watched"
        :key="s.id"
        type="button"
        class="button"
        :class="{ lost: !holds }"
        :aria-pressed="holds"
        :data-test="`lock-${s.id}`"
        @click="r.step(s, holds ? 'lost' : 'done')">
        <span
          >{{ s.name }}<small>{{ t(holds ? "run.holdsTap" : "run.lostTap") }}</small></span
        >
      </button>
    </div>
  </section>
</template>

<style scoped>
.chips { margin-top: 8px; display: grid; grid-template-columns: repeat(auto-fill, minmax(200px, 1fr)); gap: 10px; } .chips .button { justify-content: flex-start; padding: 6px 12px; } .chips span { display: flex; flex-direction: column; line-height: 1.15; } small { font-size: 14px; color: var(--soft); font-weight: 420; }
.lost { background: var(--hold); color: var(--on-grade); border-color: var(--hold); } .lost small { color: inherit; }
</style>
