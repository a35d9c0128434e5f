<script setup lang="ts">
import { ElInput } from "element-plus";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { inLanguage } from "../api/client";
import type { RunNow, UseRun } from "./useRun";
import NumberField from "../parts/NumberField.vue";

/** What was filled, and what the next operator and the mechanic are to know; made from the log, with a note by hand. */
const props = defineProps<{ run: RunNow; r: UseRun }>();
const { t } = useI18n();
const session = useSession();
const note = ref("");
const saved = ref(false);
const fluid = ref("");
const litres = ref<number | null>(null);
const safe = ref(false);
const why = ref("");
const ending = ref(false);
const COMMON = ["fuel", "exhaust-fluid", "engine-oil", "coolant", "hydraulic-oil", "grease"];
async function fill() {
  if (!fluid.value || litres.value === null) return;
  if (await props.r.add({ kind: "filled", fluid: fluid.value, litres: litres.value, protected: safe.value }))
    [fluid.value, litres.value] = ["", null];
}
const hand = async () => (saved.value = await props.r.add({ kind: "handed-over", note: note.value.trim() }));
const end = () => props.r.add({ kind: "abandoned", reason: why.value.trim() });
</script>

<template>
  <section class="card stack" data-test="handover">
    <h2>{{ t("run.handOver") }}</h2>
    <p v-if="run.stand !== 'secured' && run.stand !== 'ended'" class="says">{{ t("run.notSecured") }}</p>
    <blockquote v-if="run.handed">
      {{ run.handed.text }}
      <footer class="quiet">{{ t("run.handedBy", { by: run.handed.by, at: dayAndTime(run.handed.at, session.zone) }) }}</footer>
    </blockquote>
    <h3>{{ t("run.fromLog") }}</h3>
    <ul v-if="run.lines.length">
      <li v-for="l in run.lines" :key="l.entry + l.says" :class="{ urgent: l.urgent }">{{ l.says }}</li>
    </ul>
    <p v-else class="quiet">{{ t("run.nothing") }}</p>
    <p v-for="c in run.counted" :key="c">{{ c }}</p>
    <details>
      <summary>{{ t("schools.title") }}</summary>
      <ul>
        <li v-for="s in run.schools" :key="s.id">{{ s.asks }} {{ s.name }}</li>
      </ul>
    </details>
    <h3>{{ t("run.filled") }}</h3>
    <div class="chips" role="group" :aria-label="t('run.filled')">
      <button
        v-for="f in COMMON.filter((x) => x in run.fluids)"
        :key="f"
        type="button"
        class="button"
        :class="{ chosen: fluid === f }"
        :aria-pressed="fluid === f"
        :data-test="`fluid-${f}`"
        @click="fluid = f">
        {{ run.fluids[f] }}
      </button>
    </div>
    <div v-if="fluid" class="row wrap">
      <NumberField v-model="litres" :min="0" :max="20000" :step="5" :precision="1" :aria-label="t('run.litres')" data-test="litres" />
      {{ t("run.litres") }}
      <label class="row"
        ><input v-model="safe" type="checkbox" data-test="protected" /><span>{{ t("run.protected") }}</span></label
      ><button type="button" class="button" :disabled="litres === null" data-test="fill" @click="fill">{{ t("run.writeDown") }}</button>
    </div>
    <h3>{{ t("run.note") }}</h3>
    <ElInput
      v-model="note"
      type="textarea"
      :rows="3"
      maxlength="2000"
      :placeholder="t('run.noteNext')"
      :aria-label="t('run.note')"
      data-test="hand-note" />
    <div class="row wrap">
      <a
        class="button"
        :href="inLanguage(`/api/machines/${run.machine.id}/run/${run.run}/hand-over.pdf`)"
        target="_blank"
        data-test="hand-over-pdf"
        >{{ t("run.print") }}</a
      >
      <button type="button" class="button primary" :disabled="note.trim().length < 1" data-test="hand-over" @click="hand">
        {{ t("run.giveOver") }}</button><span v-if="saved" role="status">{{ t("run.given") }}</span>
    </div>
    <template v-if="run.stand !== 'secured' && run.stand !== 'ended' && run.engine === 'stopped'">
      <button type="button" class="button plain" :aria-expanded="ending" data-test="end-run" @click="ending = !ending">
        {{ t("run.endIt") }}
      </button>
      <form v-if="ending" class="row wrap" @submit.prevent="end">
        <ElInput
          v-model="why"
          class="why"
          maxlength="400"
          :placeholder="t('run.endWhy')"
          :aria-label="t('run.endWhy')"
          data-test="end-why" /><button type="submit" class="button" :disabled="why.trim().length < 3" data-test="end-now">
          {{ t("run.endIt") }}
        </button>
      </form>
    </template>
    <RouterLink v-if="run.stand === 'secured' || run.stand === 'ended'" class="button" :to="{ name: 'yard' }">{{
      t("walk.toYard")
    }}</RouterLink>
  </section>
</template>

<style scoped>
blockquote { margin: 0; border-left: 4px solid var(--line); padding-left: 12px; white-space: pre-line; }
ul { margin: 0; padding-left: 22px; } .urgent { font-weight: 620; } .says { border-left: 5px solid var(--here); padding-left: 12px; } input { width: 28px; height: 28px; } label { min-height: var(--target); } .why { width: 320px; }
@media print { .chips, button, .button, .el-textarea { display: none; } }
</style>
