<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import { useNext } from "../yard/useNext";

/** How a machine stands, why, and the one thing to do next; whatever else there is of it comes after. */
const props = defineProps<{ file: Schemas["MachineFileOut"] }>();
const emit = defineEmits<{ edit: [] }>();
const { t } = useI18n();
const session = useSession();
const machine = computed(() => props.file.machine.id);
const { now, stale, next, to } = useNext(machine);
const mine = computed(() => now.value?.current && now.value.walker === session.person?.id);
</script>

<template>
  <header class="stack">
    <div>
      <h1>{{ file.machine.name }}</h1>
      <p class="quiet">{{ file.machine.maker }} {{ file.machine.model }} · {{ file.machine.family }}</p>
    </div>
    <p v-if="stale" class="card without" role="status" data-test="without">{{ t("connection.without") }}</p>
    <section v-if="now" class="card state" data-test="state">
      <GradeMark :mark="now.go" :size="64" silent />
      <div class="grow stack">
        <h2>{{ t(`mark.${now.go}`) }}</h2>
        <p>{{ now.why }}</p>
        <p v-for="l in now.limits" :key="l">
          <b>{{ l }}</b>
        </p>
        <p v-if="now.current" class="quiet">{{ t("yard.under", { name: now.walked_by, n: now.answered, of: now.planned }) }}</p>
        <p v-else-if="now.signed_by" class="quiet">
          {{ t("yard.signed", { name: now.signed_by, at: dayAndTime(now.signed_at ?? "", session.zone) }) }}
        </p>
      </div>
      <RouterLink class="button primary" :to="to" data-test="next">{{
        next === "open" ? t("file.holds") : next === "start" ? t("run.link") : mine ? t("today.goOn") : t(`yard.${next}`)
      }}</RouterLink>
    </section>
    <nav class="chips more" :aria-label="t('file.more', { name: file.machine.name })">
      <RouterLink v-if="next === 'start' || next === 'open'" class="button" :to="{ name: 'approach', params: { machine } }">{{
        t("yard.again")
      }}</RouterLink>
      <RouterLink v-if="next !== 'start'" class="button" :to="{ name: 'run', params: { machine } }" data-test="run">{{
        t("run.link")
      }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'incident', params: { machine } }" data-test="happened">{{ t("incident.link") }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'where', params: { machine } }">{{ t("where.link") }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'overnight', params: { machine } }" data-test="overnight">{{
        t("overnight.link")
      }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'trends', params: { machine } }" data-test="trends">{{ t("reading.tab") }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'course', params: { machine } }" data-test="course">{{ t("course.link") }}</RouterLink>
      <RouterLink class="button" :to="{ name: 'records', query: { machine } }" data-test="history">{{ t("records.title") }}</RouterLink>
      <button v-if="file.may_edit" type="button" class="button" data-test="edit-file" @click="emit('edit')">{{ t("file.edit") }}</button>
    </nav>
  </header>
</template>

<style scoped>
.without { border-left: 5px solid var(--hold); }
.state { display: flex; gap: 20px; align-items: center; border: 2px solid var(--ink); }
.grow { flex: 1; min-width: 0; gap: 4px; }
.primary { min-width: 190px; min-height: 64px; flex: none; }
.more { gap: 8px; }
.more .button { padding: 6px 12px; border-color: var(--line); font-weight: 560; }
@media (max-width: 700px) { .state { flex-wrap: wrap; gap: 12px; } .grow { min-width: 220px; } .state .primary { width: 100%; } }
</style>
