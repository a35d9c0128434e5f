<script setup lang="ts">
import { ElInput } from "element-plus";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useIncidents, useSays } from "../data/queries";
import PageState from "../parts/PageState.vue";
import { newEntry, uuid7, type What } from "../parts/device";
import { useOutbox } from "../parts/outbox";

/** What happened to a machine: written down in two taps, with or without a connection; examined by who answers for it. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const session = useSession();
const outbox = useOutbox();
const { data, error, refetch } = useIncidents(props.machine);
const unread = useSays(error);
type Happened = Schemas["IncidentKind"];
const WHATS: Happened[] = ["tipped", "line", "fire", "hurt", "struck", "slid", "sunk", "other"];
/** What is done to a machine that ends its inspection, too, and is no incident. */
const DONES: Schemas["Done"][] = ["serviced", "hot-work", "lines-opened", "carried", "moved"];
const what = ref<Happened | "">("");
const done = ref<Schemas["Done"] | "">("");
const note = ref("");
const found = ref("");
const examining = ref("");
const kept = computed(() => outbox.waitingAt(props.machine).filter((e) => e.what.kind === "incident" || e.what.kind === "worked-on"));
// What waited and went out by itself, when the connection was back, is told by the server from then on.
watch(
  () => kept.value.length,
  (now, before) => {
    if (now < before) void refetch();
  },
);
const mayTell = computed(() => session.may("walk"));

async function write(said: What) {
  const entry = newEntry(props.machine, `defect.${uuid7()}`, session.person!.id, said);
  if (!(await outbox.post(entry))) return false;
  await outbox.flush();
  if (!(await outbox.answeredFor(entry.id))) return false;
  await refetch();
  return true;
}
async function tell() {
  if (what.value && (await write({ kind: "incident", what: what.value, note: note.value.trim() }))) what.value = note.value = "";
}
async function workedOn() {
  if (done.value && (await write({ kind: "worked-on", what: done.value, note: note.value.trim() }))) done.value = note.value = "";
}
async function examined(incident: string) {
  if (await write({ kind: "examined", incident, found: found.value.trim() })) examining.value = found.value = "";
}
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("incident.title", { name: data?.name ?? machine.toUpperCase() }) }}</h1>
      <div class="row wrap">
        <RouterLink class="button sos" :to="{ name: 'emergency' }">{{ t("emergency.title") }}</RouterLink><RouterLink
          class="button"
          :to="{ name: 'run', params: { machine } }"
          >{{ t("run.link") }}</RouterLink
        ><RouterLink class="button" :to="{ name: 'machine', params: { machine } }">{{ t("run.file") }}</RouterLink>
      </div>
    </div>
    <p>{{ t("incident.says") }}</p>
    <section v-if="mayTell" class="card stack">
      <h2 class="h3">{{ t("incident.which") }}</h2>
      <div class="whats" role="group" :aria-label="t('incident.which')">
        <button
          v-for="w in WHATS"
          :key="w"
          type="button"
          class="button"
          :class="{ chosen: what === w }"
          :aria-pressed="what === w"
          :data-test="`happened-${w}`"
          @click="((what = w), (done = ''))">
          {{ t(`incident.what.${w}`) }}
        </button>
      </div>
      <template v-if="what">
        <p class="do" role="status">
          <b>{{ t("incident.first") }}:</b> {{ t(`incident.do.${what}`) }}
        </p>
        <ElInput
          v-model="note"
          type="textarea"
          :rows="2"
          maxlength="2000"
          :placeholder="t('incident.note')"
          :aria-label="t('incident.note')"
          data-test="incident-note" />
        <button type="button" class="button primary save" data-test="incident-save" @click="tell">{{ t("incident.save") }}</button>
      </template>
    </section>
    <section v-if="mayTell" class="card stack">
      <h2 class="h3">{{ t("incident.doneTitle") }}</h2>
      <div class="whats" role="group" :aria-label="t('incident.doneTitle')">
        <button
          v-for="w in DONES"
          :key="w"
          type="button"
          class="button"
          :class="{ chosen: done === w }"
          :aria-pressed="done === w"
          :data-test="`done-${w}`"
          @click="((done = w), (what = ''))">
          {{ t(`incident.done.${w}`) }}
        </button>
      </div>
      <template v-if="done">
        <p class="quiet">{{ t("incident.doneDo") }}</p>
        <ElInput
          v-model="note"
          type="textarea"
          :rows="2"
          maxlength="2000"
          :placeholder="t('incident.note')"
          :aria-label="t('incident.note')"
          data-test="done-note" />
        <button type="button" class="button primary save" data-test="done-save" @click="workedOn">{{ t("incident.save") }}</button>
      </template>
    </section>
    <p v-for="e in kept" :key="e.id" class="card stop" role="alert" data-test="incident-kept">
      <b
        >{{
          e.what.kind === "incident"
            ? t(`incident.what.${e.what.what}`)
            : e.what.kind === "worked-on"
              ? t(`incident.done.${e.what.what}`)
              : ""
        }}.</b
      >
      {{ t("incident.kept") }}
    </p>
    <section class="stack">
      <h2>{{ t("incident.list") }}</h2>
      <PageState
        :says="unread"
        :waits="!data"
        :lines="2"
        :nothing="data && !data.incidents.length && !data.done.length ? t('incident.none') : undefined" />
      <article
        v-for="(i, n) in data?.incidents ?? []"
        :key="i.id"
        class="card stack"
        :class="{ stop: i.waits }"
        :data-test="`incident-${i.what}`">
        <p>
          <b>{{ i.says }}</b> <span class="quiet">{{ t("incident.by", { by: i.by, at: dayAndTime(i.at, session.zone) }) }}</span>
        </p>
        <p v-if="i.note">{{ i.note }}</p>
        <p v-if="n === 0 || i.waits" class="do">{{ t(`incident.do.${i.what}`) }}</p>
        <p v-if="i.waits" role="alert">
          <b>{{ t("incident.waits") }}</b>
        </p>
        <p v-if="i.examined_at">
          {{ t("incident.examinedBy", { by: i.examined_by, at: dayAndTime(i.examined_at, session.zone) }) }} {{ i.found }}
        </p>
        <template v-if="i.waits && data?.may_examine">
          <form v-if="examining === i.id" class="stack" @submit.prevent="examined(i.id)">
            <ElInput
              v-model="found"
              type="textarea"
              :rows="2"
              maxlength="2000"
              :placeholder="t('incident.found')"
              :aria-label="t('incident.found')"
              data-test="examined-found" /><button
              type="submit"
              class="button primary"
              :disabled="found.trim().length < 3"
              data-test="examined-save">
              {{ t("incident.examine") }}
            </button>
          </form>
          <button v-else type="button" class="button" data-test="examine" @click="examining = i.id">{{ t("incident.examine") }}</button>
        </template>
      </article>
      <article v-for="d in data?.done ?? []" :key="d.id" class="card" :data-test="`was-${d.what}`">
        <p>
          <b>{{ d.says }}</b> <span class="quiet">{{ t("incident.by", { by: d.by, at: dayAndTime(d.at, session.zone) }) }}</span>
        </p>
        <p v-if="d.note">{{ d.note }}</p>
      </article>
      <p v-if="(data?.incidents.length || data?.done.length) && !data?.incidents.some((i) => i.waits)" class="row spread wrap">
        {{ t("incident.whole") }}
        <RouterLink class="button" :to="{ name: 'approach', params: { machine } }">{{ t("incident.walk") }}</RouterLink>
      </p>
    </section>
  </div>
</template>

<style scoped>
.whats { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(230px, 46%), 1fr)); gap: 12px; } .whats .button { min-height: 72px; font-size: 18px; padding: 6px 10px; line-height: 1.15; }
.stop { border: 2px solid var(--hold); } .do { border-left: 4px solid var(--hold); padding-left: 12px; margin: 0; } .sos { border-color: var(--hold); } p { margin: 0; } form .button, article > .button, .save { align-self: flex-start; }
</style>
