<script setup lang="ts">
import { ElDialog, ElOption, ElSelect } from "element-plus";
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import type { Asked, useWay } from "./useWay";
import type { Step } from "./way";
import { figure } from "../app/language";

/** The way round: where to begin, which way, who goes where, and what cannot be reached now. */
const props = defineProps<{ walk: Schemas["WalkOut"]; way: ReturnType<typeof useWay>; done: Set<string>; blockedLeft: Step[] }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ wish: [change: Partial<Asked>]; block: [station: string]; report: [station: string]; go: [station: string] }>();
const { t } = useI18n();

const asked = computed(() => props.way.asked.value);
const here = computed(() => props.way.here.value);
const steps = computed(() => props.way.steps.value);
const metres = computed(() => steps.value.filter((s) => !s.walked).reduce((n, s) => n + s.metres, 0));
const seconds = computed(() => steps.value.filter((s) => !s.walked).reduce((n, s) => n + s.seconds + s.station.look_s, 0));

const set = (change: Partial<Asked>) => emit("wish", change);
</script>

<template>
  <ElDialog v-model="open" :title="t('way.title')" width="760px" top="4vh">
    <div class="two">
      <div class="stack">
        <p>{{ t("way.shortest", { m: Math.round(metres), min: Math.round(seconds / 60) }) }}</p>
        <p v-if="way.problem.value" class="warn" role="alert">{{ way.problem.value }}</p>
        <div>
          <p class="quiet">{{ t("way.people") }}</p>
          <div class="chips" role="group" :aria-label="t('way.people')">
            <button
              v-for="n in [1, 2] as const"
              :key="n"
              type="button"
              class="button"
              :class="{ chosen: asked.people === n }"
              :aria-pressed="asked.people === n"
              :data-test="`people-${n}`"
              @click="set({ people: n })">
              {{ t("way.count", n) }}
            </button>
            <template v-if="asked.people === 2">
              <button
                v-for="n in [0, 1] as const"
                :key="`m${n}`"
                type="button"
                class="button"
                :class="{ chosen: asked.mine === n }"
                :aria-pressed="asked.mine === n"
                :data-test="`mine-${n}`"
                @click="set({ mine: n })">
                {{ n === 0 ? t("way.first") : t("way.second") }}
              </button>
            </template>
          </div>
        </div>
        <div v-if="asked.people === 1">
          <p class="quiet">{{ t("way.start") }}</p>
          <ElSelect
            :model-value="asked.pin_start ?? 'any'"
            :aria-label="t('way.start')"
            @update:model-value="(v: string) => set({ pin_start: v === 'any' ? null : v })">
            <ElOption value="any" :label="t('way.shortestStart')" />
            <ElOption v-for="s in walk.stations.slice(1).filter((x) => x.level !== 'cab')" :key="s.id" :value="s.id" :label="s.name" />
          </ElSelect>
        </div>
        <div v-if="asked.people === 1">
          <p class="quiet">{{ t("way.direction") }}</p>
          <div class="chips" role="group" :aria-label="t('way.direction')">
            <button
              v-for="d in [null, 'clockwise', 'anticlockwise'] as const"
              :key="d ?? 'any'"
              type="button"
              class="button"
              :class="{ chosen: asked.direction === d }"
              :aria-pressed="asked.direction === d"
              @click="set({ direction: d })">
              {{ t(`way.${d ?? "any"}`) }}
            </button>
          </div>
        </div>
      </div>
      <ol class="steps" :aria-label="t('way.title')">
        <li
          v-for="(s, i) in steps"
          :key="s.station.id"
          :class="{ done: done.has(s.station.id), here: s.station.id === here, other: way.other.value.has(s.station.id) }">
          <span class="n figure">{{ i + 1 }}</span>
          <button type="button" class="name" @click="emit('go', s.station.id)">
            {{ s.station.name
            }}<span class="quiet">
              {{
                way.other.value.has(s.station.id) ? t("way.others") : t("way.leg", { m: figure(s.metres, 1), s: s.station.look_s })
              }}</span
            >
          </button>
          <button
            v-if="i > 0 && !done.has(s.station.id)"
            type="button"
            class="button small"
            :aria-pressed="asked.blocked.includes(s.station.id)"
            @click="emit('block', s.station.id)">
            {{ asked.blocked.includes(s.station.id) ? t("way.freeAgain") : t("way.cannot") }}
          </button>
          <button
            v-if="blockedLeft.some((b) => b.station.id === s.station.id)"
            type="button"
            class="button small"
            @click="emit('report', s.station.id)">
            {{ t("way.reportShort") }}
          </button>
        </li>
      </ol>
    </div>
    <p v-for="u in walk.unreached" :key="u.station" class="warn">{{ u.says }}</p>
  </ElDialog>
</template>

<style scoped>
.two { font-size: 18px; display: grid; grid-template-columns: 1fr 1.15fr; gap: 24px; align-items: start; }
.steps { list-style: none; margin: 0; padding: 0; max-height: 66vh; overflow-y: auto; }
.steps li { display: flex; align-items: center; gap: 10px; border-bottom: 1px solid var(--line); min-height: 68px; padding: 6px 0; flex-wrap: wrap; }
.n { width: 28px; text-align: right; font-size: 18px; color: var(--ink); }
.name { flex: 1; background: none; border: 0; text-align: left; cursor: pointer; min-height: var(--target); padding: 4px 6px; font-weight: 560; min-width: 150px; }
.name .quiet { display: block; font-weight: 420; font-size: 15px; }
.done .name { text-decoration: line-through; font-weight: 420; }
.here .n { background: var(--here); color: var(--on-grade); border-radius: 14px; text-align: center; height: 28px; line-height: 28px; }
.other .name { color: var(--soft); }
.small { padding: 4px 10px; font-size: 15px; font-weight: 460; }
.small[aria-pressed="true"] { border-color: var(--hold); color: var(--hold); }
.warn { color: var(--hold); font-weight: 560; }
@media (max-width: 700px) { .two { grid-template-columns: 1fr; } .steps { max-height: none; } }
</style>
