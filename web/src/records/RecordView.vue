<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { inLanguage } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useInspection, useSays, useTold } from "../data/queries";
import { useOutbox } from "../parts/outbox";
import PlanMap, { type Pin } from "../walkaround/PlanMap.vue";
import { plannedWay } from "../walkaround/way";
import { useWalk } from "../walkaround/useWalk";
import AmendDialog from "./AmendDialog.vue";
import EntryLog from "./EntryLog.vue";
import PaceCard from "./PaceCard.vue";
import SealCard from "./SealCard.vue";
import VerdictBody from "./VerdictBody.vue";
import { figure } from "../app/language";
import PageState from "../parts/PageState.vue";

const props = defineProps<{ inspection: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const outbox = useOutbox();
const { data, error } = useInspection(props.inspection);
const seen = computed(() => data.value ?? null);
const says = useSays(error);
const tellAgain = useTold();
const w = shallowRef<ReturnType<typeof useWalk> | null>(null);
const amending = ref(false);

watch(
  seen,
  async (now) => {
    if (!now || w.value) return;
    w.value = useWalk(now.machine.id, props.inspection);
    await w.value.load();
  },
  { immediate: true },
);

const walk = computed(() => w.value?.walk.value ?? null);
const photos = computed(() => w.value?.photos.value ?? new Map<string, string[]>());
const pins = computed<Pin[]>(() => {
  const out = new Map<string, Pin>();
  for (const i of seen.value?.verdict.items ?? []) {
    const c = walk.value?.checkpoints.find((x) => x.id === i.checkpoint);
    if (c && !out.has(c.id))
      out.set(c.id, {
        checkpoint: c.id,
        mark: i.finding.failure_mode === "unseen" ? "unseen" : i.grade,
        x: c.at[0],
        y: c.at[1],
        z: c.at[2],
        earlier: false,
      });
  }
  return [...out.values()];
});
const names = computed(() => new Map((walk.value?.checkpoints ?? []).map((c) => [c.id, c.name])));
const all = computed(() => new Set(walk.value?.stations.map((s) => s.id)));
const mayAmend = computed(() => ["signed", "amended"].includes(seen.value?.status ?? "") && session.may("walk"));

async function amended() {
  await outbox.flush();
  await tellAgain.inspection(props.inspection);
}
</script>

<template>
  <div class="page stack">
    <PageState :says="says" :waits="!seen" />
    <template v-if="seen">
      <div class="row spread wrap">
        <div>
          <h1>{{ t("record.title", { name: seen.machine.name }) }}</h1>
          <p class="quiet">
            <b>{{ seen.kind.name }}</b> · {{ seen.machine.maker }} {{ seen.machine.model }} · <b>{{ figure(seen.hour_meter, 1) }}</b>
            {{ t("unit.hours") }} ·
            {{
              seen.signed_by
                ? t("record.signed", { name: seen.signed_by, at: dayAndTime(seen.signed_at ?? "", session.zone) })
                : t(`record.not.${seen.status}`)
            }}
          </p>
        </div>
        <div class="row wrap">
          <a class="button" :href="inLanguage(`/api/inspections/${inspection}/record.json`)" data-test="json">{{ t("record.json") }}</a>
          <a class="button primary" :href="inLanguage(`/api/inspections/${inspection}/record.pdf`)" target="_blank" data-test="pdf">{{
            t("record.pdf")
          }}</a>
        </div>
      </div>
      <p v-if="seen.status === 'amended'" class="card warn row spread wrap">
        {{ t("record.amended") }}
        <RouterLink class="button primary" :to="{ name: 'verdict', params: { machine: seen.machine.id, inspection } }">{{
          t("record.signAgain")
        }}</RouterLink>
      </p>
      <p v-if="seen.late.length && seen.status === 'amended'" class="card warn">{{ t("record.late", { n: seen.late.length }) }}</p>
      <div class="plan card"><PlanMap v-if="walk" :walk="walk" here="" :done="all" :pins="pins" :way="plannedWay(walk, true)" /></div>
      <p v-if="seen?.locked" class="card locked" role="alert">{{ seen.locked }}</p>
      <VerdictBody
        :verdict="seen.verdict"
        :drawing="walk?.drawing"
        :people="seen.people"
        :photos="photos"
        :names="names"
        :hour-meter="seen.hour_meter"
        :meter-offset="seen.machine.meter_offset"
        :clears="seen.kind.clears"
        :signed="seen.status !== 'walking'" />
      <PaceCard :pace="seen.pace" />
      <SealCard :inspection="inspection" :people="seen.people" />
      <EntryLog v-if="walk" :seen="seen" :walk="walk" />
      <div class="row spread wrap">
        <button type="button" class="button" @click="router.push('/records')">{{ t("record.back") }}</button>
        <button v-if="mayAmend && walk" type="button" class="button" data-test="amend" @click="amending = true">
          {{ t("record.amend") }}
        </button>
      </div>
      <AmendDialog v-if="walk && w" v-model="amending" :w="w" @amended="amended" />
    </template>
  </div>
</template>

<style scoped>
.locked { border: 2px solid var(--hold); font-weight: 560; }
.plan { height: 380px; padding: 6px; }
.warn { border: 2px solid var(--hold); font-weight: 560; }
@media (max-width: 700px) { .plan { height: 290px; } }
</style>
