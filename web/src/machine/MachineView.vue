<script setup lang="ts">
import { ElNotification } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { call, inLanguage, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useIncidents, useLife, useMachineFile, useModels, useSays, useTold } from "../data/queries";
import FileButton from "../parts/FileButton.vue";
import LockPanel from "../parts/LockPanel.vue";
import MachinePlan from "../parts/MachinePlan.vue";
import { viewBox } from "../parts/drawing";
import { uuid7 } from "../parts/device";
import DueNext from "./DueNext.vue";
import LifeList from "./LifeList.vue";
import FileForm from "./FileForm.vue";
import MachineHead from "./MachineHead.vue";
import MeterDialog from "./MeterDialog.vue";
import OpenPlan from "./OpenPlan.vue";
import { figure } from "../app/language";
import PageState from "../parts/PageState.vue";

/** A machine's file: what the unit is, its own figures, its meter, its label, who wrote what. */
const props = defineProps<{ machine: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const { data, error } = useMachineFile(props.machine);
const { data: known } = useModels();
const { data: happened } = useIncidents(props.machine);
const { data: life } = useLife(props.machine, ref({ limit: 8 }));
const lately = computed(() => life.value?.pages[0]?.events ?? []);
const waits = computed(() => happened.value?.incidents.find((i) => i.waits) ?? null);
const file = computed(() => data.value ?? null);
const models = computed(() => known.value ?? []);
const unread = useSays(error);
const unsaved = ref("");
const says = computed(() => unsaved.value || unread.value);
const tell = useTold();
const editing = ref(!props.machine);
const meter = ref(false);

const fitted = computed(() => file.value?.model.options.filter((o) => file.value!.options.includes(o.id)).map((o) => o.name) ?? []);
const shown = (v: unknown, l: { unit: string; choices: { id: string; name: string }[] }) =>
  v === null || v === undefined ? "–" : (l.choices.find((c) => c.id === v)?.name ?? (l.unit ? `${String(v)} ${l.unit}` : String(v)));

async function saved(now: Schemas["MachineFileOut"]) {
  ElNotification({ title: t("file.saved"), message: now.machine.name, duration: 2500, position: "bottom-left" });
  editing.value = false;
  meter.value = false;
  unsaved.value = "";
  tell.machine(now);
  if (!props.machine) await router.replace({ name: "machine", params: { machine: now.machine.id } });
}
async function photo(blob: Blob) {
  const reply = await call("put", "/api/machines/{machine}/photo", {
    params: { path: { machine: props.machine }, query: { photo: uuid7() } },
    body: blob as unknown as string,
    bodySerializer: (b: unknown) => b as Blob,
    headers: { "content-type": "image/jpeg" },
  });
  if (reply.ok) await saved(reply.data);
  else unsaved.value = reply.problem?.detail ?? t("connection.awayLong");
}
function entryText(e: Schemas["FileEntryOut"]): string {
  const what = e.what as Record<string, string | number>;
  if (e.kind === "pictured") return t("file.pictured");
  if (e.kind === "good-shown") return t(what.photo ? "good.filed" : "good.filedAway", { place: what.checkpoint });
  if (e.kind === "locked") return t("lock.filed", { why: what.why });
  if (e.kind === "unlocked") return t("lock.filedOff", { reason: what.reason });
  if (e.kind === "meter-corrected") return t("file.meterCorrected", { h: what.hours ?? t("file.struck"), why: what.why });
  if (e.kind === "meter-replaced") return t("file.meterLog", { last: what.last, first: what.first, why: what.why });
  if (e.changed.length > 5) return t("file.new");
  return t("file.filed", { fields: e.changed.map((f) => t(`file.field.${f}`)).join(", ") });
}
</script>

<template>
  <div class="page stack">
    <PageState :says="says" :waits="!!machine && !data" />
    <RouterLink v-if="unread && !file" class="button on" to="/">{{ t("today.yard", 0) }}</RouterLink>
    <template v-if="editing && models.length && (file || !machine)">
      <h1>{{ file ? t("file.title", { name: file.machine.name }) : t("file.addTitle") }}</h1>
      <FileForm :file="file" :models="models" @saved="saved" @cancel="machine ? (editing = false) : router.push('/')" />
    </template>
    <template v-else-if="file">
      <MachineHead :file="file" @edit="editing = true" />
      <p v-if="waits" class="card row spread wrap waits" role="alert" data-test="incident-waits">
        <span
          ><b>{{ waits.says }}.</b> {{ t("incident.waits") }}</span
        ><RouterLink class="button" :to="{ name: 'incident', params: { machine } }">{{ t("incident.link") }}</RouterLink>
      </p>
      <div class="two">
        <div class="stack">
          <OpenPlan :machine="machine" :name="file.machine.name" :drawing="file.drawing" />
          <section class="card stack">
            <svg
              class="drawing"
              :viewBox="viewBox(file.sides.right)"
              role="img"
              :aria-label="t('walk.sideMap.right', { name: file.machine.name })">
              <MachinePlan :drawing="file.sides.right" />
            </svg>
            <details v-if="fitted.length">
              <summary>
                <h2 class="h3">{{ t("file.options") }}</h2>
              </summary>
              <p data-test="options">{{ fitted.join(", ") }}</p>
            </details>
            <p v-if="file.note" class="note">{{ file.note }}</p>
          </section>
        </div>
        <section class="stack">
          <DueNext :machine="machine" :meter="file.meter" />
          <section class="card stack" data-test="last-events">
            <div class="row spread wrap">
              <h2 class="h3">{{ t("life.link") }}</h2>
              <RouterLink class="button" :to="{ name: 'life', params: { machine } }" data-test="whole-life">{{
                t("life.whole")
              }}</RouterLink>
            </div>
            <LifeList :machine="machine" :events="lately" />
          </section>
        </section>
        <section class="stack">
          <LockPanel :machine="machine" :locks="file.locks" @changed="(now) => tell.machine(now)" />
          <div class="card">
            <h2 class="h3">{{ t("file.meter") }}</h2>
            <p class="big figure" data-test="meter">{{ t("file.shows", { h: figure(file.meter, 1) }) }}</p>
            <p v-if="file.machine.meter_offset" class="quiet" data-test="total">
              {{ t("file.total", { h: figure(file.machine.hour_meter, 1), o: figure(file.machine.meter_offset, 1) }) }}
            </p>
            <button v-if="file.may_edit" type="button" class="button" data-test="replace-meter" @click="meter = true">
              {{ t("file.replace") }}
            </button>
          </div>
          <details class="card">
            <summary>
              <h2 class="h3">{{ t("file.limits") }}</h2>
            </summary>
            <table>
              <tbody>
                <tr v-for="l in file.model.limits" :key="l.id" :data-test="`limit-${l.id}`">
                  <th scope="row">{{ l.name }}</th>
                  <td>
                    <b>{{ shown(file.own_limits[l.id] ?? l.value, l) }}</b><span v-if="l.id in file.own_limits" class="quiet own"
                      >{{ t("file.own") }} · {{ t("file.modelsFigure", { v: shown(l.value, l) }) }}</span
                    >
                  </td>
                </tr>
              </tbody>
            </table>
          </details>
          <div class="card row label">
            <img class="code" :src="`/api/machines/${machine}/label.svg`" :alt="t('file.code', { name: file.machine.name })" />
            <div class="stack">
              <h2 class="h3">{{ t("file.label") }}</h2>
              <p class="quiet">{{ t("file.labelText") }}</p>
              <a class="button" :href="inLanguage(`/api/machines/${machine}/label.pdf`)" target="_blank" data-test="label">{{
                t("file.print")
              }}</a>
            </div>
          </div>
          <div class="card stack">
            <h2 class="h3">{{ t("file.photo") }}</h2>
            <img
              v-if="file.photo"
              class="photo"
              :src="`/api/photos/${file.photo}`"
              :alt="t('file.photoOf', { name: file.machine.name })"
              data-test="machine-photo" />
            <FileButton v-if="file.may_edit" test="new-photo" @file="photo">{{ t("file.newPhoto") }}</FileButton>
          </div>
          <div class="card">
            <h2 class="h3">{{ t("file.log") }}</h2>
            <p v-for="e in file.entries" :key="e.id" class="entry">
              {{ entryText(e) }}<span class="quiet"> {{ t("file.byAt", { at: dayAndTime(e.at, session.zone), by: e.by }) }}</span>
            </p>
            <p v-if="!file.may_edit" class="quiet">{{ t("file.readOnly") }}</p>
          </div>
        </section>
      </div>
      <MeterDialog v-model="meter" :file="file" @saved="saved" />
    </template>
  </div>
</template>

<style scoped>
.on { align-self: flex-start; }
summary { min-height: 56px; display: flex; align-items: center; cursor: pointer; gap: 10px; } summary::before { content: "+"; font-weight: 680; font-size: 22px; } [open] > summary::before { content: "−"; }
.two {
  display: grid;
  grid-template-columns: 1.15fr 1.1fr 1fr;
  gap: 20px;
  align-items: start;
}
.drawing {
  width: 100%;
  max-height: 190px;
}
.big {
  font-size: 34px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 17px;
}
th,
td {
  text-align: left;
  padding: 7px 8px 7px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 420;
  vertical-align: top;
}
.own {
  margin-left: 8px;
}
.code {
  width: 124px;
  height: 124px;
  background: #fff;
  border-radius: 8px;
  flex: none;
}
.label {
  align-items: flex-start;
}
.photo {
  width: 100%;
  border-radius: 10px;
}
.entry {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.entry .quiet {
  display: block;
}
.note {
  border-left: 4px solid var(--line);
  padding-left: 10px;
}
.bad {
  color: var(--hold);
}
.waits {
  border: 2px solid var(--hold);
  margin: 0;
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr 1fr;
  }
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
