<script setup lang="ts">
import { useI18n } from "vue-i18n";

import type { Kept } from "../parts/device";
import type { Step } from "./useRun";

/** The steps of a part, each with how it stands: a letter, a shape and a colour. */
const props = defineProps<{ steps: Step[]; current: string; waiting: Kept[] }>();
const emit = defineEmits<{ pick: [id: string] }>();
const { t } = useI18n();
const kept = (s: Step) => props.waiting.some((e) => e.what.kind === "stepped" && e.what.step === s.id);
const markOf = (s: Step) => (kept(s) ? "kept" : s.mark);
</script>

<template>
  <ol v-if="steps.length" class="card list">
    <li v-for="s in steps" :key="s.id">
      <button
        type="button"
        :class="[markOf(s), { current: s.id === current }]"
        :aria-current="s.id === current ? 'step' : undefined"
        :data-test="`step-${s.id}`"
        :data-mark="markOf(s)"
        @click="emit('pick', s.id)">
        <svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true">
          <path v-if="markOf(s) === 'done'" d="M4 13l5 5L20 6" />
          <path v-else-if="['failed', 'lost', 'void'].includes(markOf(s))" d="M5 5l14 14M19 5L5 19" />
          <path v-else-if="markOf(s) === 'skipped'" d="M4 12h16" />
          <path v-else-if="markOf(s) === 'waiting'" d="M7 4h10L7 20h10z" />
          <circle v-else-if="markOf(s) === 'kept'" cx="12" cy="12" r="5" class="fill" />
          <circle v-else cx="12" cy="12" r="8" />
        </svg>
        <span
          >{{ s.name
          }}<small
            >{{ t(`run.mark.${markOf(s)}`) }}<template v-if="s.life"> · {{ t("run.lifeShort") }}</template></small
          ></span
        >
      </button>
    </li>
  </ol>
</template>

<style scoped>
.list { list-style: none; margin: 0; padding: 6px; max-height: 52vh; overflow-y: auto; }
li button { display: flex; gap: 12px; align-items: center; width: 100%; min-height: var(--target); text-align: left; background: none; border: 0; border-radius: 10px; padding: 6px 10px; cursor: pointer; }
li button.current { box-shadow: inset 0 0 0 2px var(--here); } span { display: flex; flex-direction: column; line-height: 1.15; } small { color: var(--soft); font-size: 14px; }
svg { flex: none; } path, circle { fill: none; stroke: var(--soft); stroke-width: 2.4; } .fill { fill: var(--soft); }
.done path { stroke: var(--sound); } .failed path, .lost path, .void path { stroke: var(--hold); } .skipped path { stroke: var(--mend); } .waiting path { stroke: var(--here); }
.later span, .later small { color: var(--soft); }
</style>
