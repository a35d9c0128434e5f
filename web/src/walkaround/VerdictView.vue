<script setup lang="ts">
import { ElDialog } from "element-plus";
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import { useSession } from "../app/session";
import { useOutbox } from "../parts/outbox";
import PaceCard from "../records/PaceCard.vue";
import VerdictBody from "../records/VerdictBody.vue";
import { useWalk } from "./useWalk";

const props = defineProps<{ machine: string; inspection: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const outbox = useOutbox();
const w = useWalk(props.machine, props.inspection);
const { seen, walk, photos } = w;
const asking = ref(false);
const says = ref("");
const busy = ref(false);

const verdict = computed(() => seen.value?.verdict ?? null);
const names = computed(() => seen.value?.people ?? {});
/** The server's verdict only counts when it has seen every tap. */
const current = computed(() => outbox.waiting === 0 && !outbox.away && verdict.value !== null);
const maySign = computed(() => current.value && verdict.value!.outcome !== "incomplete" && seen.value?.status !== "signed" && session.person?.role !== "administrator");
const mine = computed(() => verdict.value?.released.some((r) => r.other_must_sign && r.by === session.person?.id) ?? false);

onMounted(() => w.load());

function toCheckpoint(id: string) {
  const station = walk.value?.checkpoints.find((c) => c.id === id)?.station;
  void (station ? w.add({ kind: "arrived", station }) : Promise.resolve("")).then(() => router.push({ name: "walk", params: { machine: props.machine, inspection: props.inspection } }));
}
const checkpointNames = computed(() => new Map((walk.value?.checkpoints ?? []).map((c) => [c.id, c.name])));

async function sign() {
  if (!maySign.value || busy.value || !verdict.value) return;
  busy.value = true;
  says.value = "";
  const late = new Set(seen.value!.late);
  const covers = w.lines.value.filter((l) => l.what.kind !== "signed" && !late.has(l.id)).map((l) => l.id).sort();
  const id = await w.add({ kind: "signed", covers, outcome: verdict.value.outcome });
  await outbox.flush();
  const no = outbox.refused.find((r) => r.id === id);
  busy.value = false;
  asking.value = false;
  if (no) {
    says.value = no.says ?? "";
    await outbox.dropRefused(id);
    await w.refresh();
    return;
  }
  if (outbox.away) {
    says.value = t("verdict.signedAway");
    return;
  }
  await router.replace({ name: "record", params: { inspection: props.inspection } });
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("verdict.title", { name: walk?.machine.name ?? "" }) }}</h1>
    <p v-if="outbox.away || outbox.waiting" class="card away" role="status">{{ t("verdict.notCurrent", { n: outbox.waiting }) }}</p>
    <p v-if="says" class="card away" role="alert" data-test="says">{{ says }}</p>
    <VerdictBody v-if="verdict && seen" :verdict="verdict" :people="names" :photos="photos" :names="checkpointNames" :hour-meter="seen.hour_meter" :meter-offset="seen.machine.meter_offset" :clears="seen.kind.clears" :signed="seen.status === 'signed'" @go="toCheckpoint" />
    <PaceCard v-if="seen" :pace="seen.pace" />
    <p class="quiet">{{ t("caution") }}</p>
    <p v-if="mine" class="card away">{{ t("verdict.otherSigns") }}</p>
    <div class="row spread wrap foot">
      <RouterLink class="button" :to="{ name: 'walk', params: { machine, inspection } }">{{ t("verdict.back") }}</RouterLink>
      <button type="button" class="button primary" :disabled="!maySign" data-test="sign" @click="asking = true">{{ t("verdict.sign", { name: session.person?.name }) }}</button>
    </div>
    <ElDialog v-model="asking" :title="t('verdict.signTitle')" width="560px">
      <p>{{ t("verdict.signText", { outcome: verdict ? t(`mark.${verdict.outcome}`) : "" }) }}</p>
      <p v-for="l in verdict?.limits" :key="l">· {{ l }}</p>
      <template #footer><button type="button" class="button primary" :disabled="busy" data-test="sign-now" @click="sign">{{ t("verdict.signNow") }}</button></template>
    </ElDialog>
  </div>
</template>

<style scoped>
.foot { position: sticky; bottom: 0; background: var(--paper); padding: 12px 0; }
.foot .primary { min-height: 64px; }
.away { border: 2px solid var(--hold); font-weight: 560; }
</style>
