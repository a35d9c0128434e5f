<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { clock, type RunNow, type UseRun } from "./useRun";

/** What the engine does, said by the hand on the key: cranked, runs, stands; with the starter's time and rest. */
const props = defineProps<{ run: RunNow; r: UseRun; tells: RunNow["engine"] | null }>();
const { t } = useI18n();
const why = ref("");
const since = computed(() => (props.run.engine_since ? props.r.now.value - Date.parse(props.run.engine_since) : 0));
const tired = computed(() => props.run.needs_cause);
/** Said to run, and the machine tells that it stands: the hand ends that. */
const stands = computed(() => props.tells === "stopped" && props.run.engine !== "stopped");
const LONGEST_MS = 30_000;
async function crank() {
  await props.r.engine("cranking", tired.value ? why.value.trim() : "");
  why.value = "";
}
</script>

<template>
  <section class="card engine" :class="run.engine" :aria-label="t('run.engine')" data-test="engine" :data-engine="run.engine">
    <p>
      <b>{{ t(`run.engineNow.${run.engine}`) }}</b><span v-if="run.engine_since" class="figure" role="timer">{{ clock(since) }}</span>
      <small v-if="stands" role="status" data-test="tells-stands">{{ t("panel.tellsStands") }}</small><small
        v-else-if="tells && run.engine !== 'stopped'"
        data-test="tells"
        >{{ t("panel.tellsTurns") }}</small
      ><small v-else-if="tells && run.ready_to_start" data-test="tells">{{ t("panel.turnKey") }}</small>
    </p>
    <template v-if="run.engine === 'stopped'">
      <form v-if="tired" class="row wrap" @submit.prevent="crank">
        <ElInput
          v-model="why"
          class="cause"
          maxlength="400"
          :placeholder="t('run.cause')"
          :aria-label="t('run.cause')"
          data-test="cause" /><button type="submit" class="button" :disabled="why.trim().length < 3" data-test="crank-again">
          {{ t("run.crank") }}
        </button>
      </form>
      <button
        v-else
        type="button"
        class="button"
        :class="{ primary: run.ready_to_start }"
        :disabled="!run.ready_to_start"
        data-test="crank"
        @click="crank">
        {{ t("run.crank") }}
      </button>
    </template>
    <template v-else-if="run.engine === 'cranking'">
      <p class="big figure" :class="{ late: since > LONGEST_MS }">{{ t("run.cranked", { s: Math.floor(since / 1000) }) }}</p>
      <button type="button" class="button" data-test="not-caught" @click="r.engine('stopped', t('run.notCaught'))">
        {{ t("run.notCaught") }}
      </button>
      <button type="button" class="button primary" data-test="runs" @click="r.engine('running')">{{ t("run.runs") }}</button>
    </template>
    <button
      v-else
      type="button"
      class="button"
      :class="{ stopit: run.stand === 'stop', primary: stands }"
      data-test="engine-off"
      @click="r.engine('stopped', run.stand === 'stop' ? run.says : '')">
      {{ t("run.stopped") }}
    </button>
  </section>
</template>

<style scoped>
.engine { display: flex; align-items: center; gap: 14px; flex-wrap: wrap; } .engine p { display: flex; flex-direction: column; line-height: 1.15; flex: 1; min-width: 130px; }
.figure { font-size: 26px; } small { font-size: 15px; font-weight: 420; color: var(--soft); } .big { font-size: 40px; } .late { color: var(--hold); } .button { min-height: 72px; font-size: 20px; } .cause { width: 320px; flex: 1; min-width: 240px; } form { flex: 1; }
.stopit { background: var(--hold); border-color: var(--hold); color: var(--on-grade); }
</style>
