<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import StationPlan from "./StationPlan.vue";
import type { Remark, RunNow, UseRun } from "./useRun";

/** At work: what is noticed, in a tap or two; red stops it now, amber is looked at at the next stop. */
const props = defineProps<{ run: RunNow; r: UseRun }>();
const { t } = useI18n();
const session = useSession();
const SOON_MS = 45 * 60_000;
const left = computed(() => (props.run.gate.valid_until ? Date.parse(props.run.gate.valid_until) - props.r.now.value : Infinity));
const soon = computed(() => left.value < SOON_MS),
  over = computed(() => left.value < 0);
const SENSES: Remark["sense"][] = ["noise", "smell", "feel", "sight", "lamp", "gauge"];
const sense = ref<Remark["sense"] | "">("");
const station = ref("");
const note = ref("");
/** Which needle was read, where one was. */
const gauge = ref("");
const needle = computed(() => sense.value === "gauge");
async function remark(colour: Remark["colour"]) {
  if (!sense.value || (needle.value && !gauge.value)) return;
  if (
    await props.r.add({
      kind: "remarked",
      sense: sense.value,
      colour,
      station: needle.value ? "" : station.value,
      note: note.value.trim(),
      gauge: needle.value ? gauge.value : "",
    })
  ) {
    sense.value = "";
    station.value = note.value = gauge.value = "";
  }
}
</script>

<template>
  <section class="card stack" data-test="work">
    <p v-if="run.gate.valid_until" class="until" :class="{ soon }" :role="soon ? 'alert' : undefined" data-test="until">
      {{
        t(over ? "run.validOver" : soon ? "run.validSoon" : "run.validUntil", {
          at: dayAndTime(run.gate.valid_until, session.zone),
          h: figure((run.gate.valid_until_hour ?? 0) - run.machine.meter_offset, 1),
        })
      }}
    </p>
    <p v-for="c in run.counted" :key="c" class="counted" data-test="counted">{{ c }}</p>
    <ul v-if="run.gate.limits.length" class="limits">
      <li v-for="l in run.gate.limits" :key="l">{{ l }}</li>
    </ul>
    <h2>{{ t("run.noticed") }}</h2>
    <p class="quiet">{{ t("run.noticedHow") }}</p>
    <div class="chips" role="group" :aria-label="t('run.noticed')">
      <button
        v-for="s in SENSES"
        :key="s"
        type="button"
        class="button"
        :class="{ chosen: sense === s }"
        :aria-pressed="sense === s"
        :data-test="`sense-${s}`"
        @click="sense = s">
        {{ t(`run.sense.${s}`) }}
      </button>
    </div>
    <template v-if="sense">
      <div v-if="needle" class="chips" role="group" :aria-label="t('run.sense.gauge')">
        <button
          v-for="g in run.gauges"
          :key="g.key"
          type="button"
          class="button"
          :class="[{ chosen: gauge === g.key }, g.colour && `is-${g.colour}`]"
          :aria-pressed="gauge === g.key"
          :data-test="`gauge-${g.key}`"
          @click="gauge = g.key">
          {{ g.name }}<small v-if="g.at && g.colour">{{ t(`run.gaugeWas.${g.colour}`, { at: dayAndTime(g.at, session.zone) }) }}</small>
        </button>
      </div>
      <template v-else>
        <StationPlan :run="run" :station="station" @pick="(id) => (station = station === id ? '' : id)" />
        <p v-if="station" class="at" aria-hidden="true">
          <b>{{ run.stations[station] }}</b>
        </p>
        <div class="chips small" role="group" :aria-label="t('run.where')">
          <button
            v-for="(name, id) in run.stations"
            :key="id"
            type="button"
            class="button"
            :class="{ chosen: station === id }"
            :aria-pressed="station === id"
            :data-test="`at-${id}`"
            @click="station = station === id ? '' : String(id)">
            {{ name }}
          </button>
        </div>
      </template>
      <ElInput v-model="note" maxlength="400" :placeholder="t('run.noteHint')" :aria-label="t('run.noteHint')" data-test="remark-note" />
      <div v-if="!needle || gauge" class="row wrap">
        <button type="button" class="button red" data-test="red" @click="remark('red')">{{ t("run.red") }}</button><button
          type="button"
          class="button amber"
          data-test="amber"
          @click="remark('amber')">
          {{ t("run.amber") }}</button
        ><button type="button" class="button" data-test="plain" @click="remark('none')">{{ t(needle ? "run.green" : "run.plain") }}</button>
      </div>
    </template>
    <ul v-if="run.lines.length" class="lines">
      <li v-for="l in run.lines" :key="l.entry + l.says" :class="{ urgent: l.urgent }">{{ l.says }}</li>
    </ul>
    <p class="quiet">{{ t("run.danger") }}</p>
    <div class="row wrap">
      <RouterLink class="button happened" :to="{ name: 'incident', params: { machine: run.machine.id } }" data-test="happened">{{
        t("incident.link")
      }}</RouterLink><RouterLink class="button plain" to="/jobs">{{ t("jobs.link") }}</RouterLink>
    </div>
  </section>
</template>

<style scoped>
.until { font-size: 17px; } .soon { color: var(--hold); font-weight: 680; } .limits { margin: 0; padding-left: 22px; font-weight: 620; }
.counted { margin: 0; font-size: 17px; } .happened { border-color: var(--hold); }
.at { margin: 0; } .small { flex-wrap: nowrap; overflow-x: auto; } .small .button { padding: 4px 12px; font-size: 16px; flex: none; } .red { background: var(--hold); border-color: var(--hold); color: var(--on-grade); min-height: 72px; } .amber { border: 3px solid var(--mend); color: var(--mend); min-height: 72px; }
.chips small { display: block; font-size: 16px; font-weight: 420; } .is-red { border: 3px solid var(--hold); } .is-amber { border: 3px solid var(--mend); } .is-none { border: 3px solid var(--sound); }
.lines { margin: 0; padding-left: 22px; } .urgent { font-weight: 620; }
</style>
