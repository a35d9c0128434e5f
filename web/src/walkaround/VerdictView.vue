<script setup lang="ts">
import { ElDialog } from "element-plus";
import { computed, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import { useLanguage } from "../app/language";
import { useSession } from "../app/session";
import { useOutbox } from "../parts/outbox";
import PaceCard from "../records/PaceCard.vue";
import VerdictBody from "../records/VerdictBody.vue";
import { useWalk } from "./useWalk";

const props = defineProps<{ machine: string; inspection: string }>();
const { t } = useI18n();
const router = useRouter();
const route = useRoute();
const session = useSession();
const outbox = useOutbox();
const { current: language } = useLanguage();
const w = useWalk(props.machine, props.inspection);
const { seen, walk, photos } = w;
const asking = ref(false);
const says = ref("");
const busy = ref(false);
/** What of this walk is still on this device alone; what waits for others is no matter here. */
const waiting = computed(() => outbox.waitingFor(props.inspection));

const verdict = computed(() => seen.value?.verdict ?? null);
const names = computed(() => seen.value?.people ?? {});
/** The server's verdict only counts when it has seen every tap. */
const current = computed(() => waiting.value === 0 && !outbox.away && verdict.value !== null);
const maySign = computed(
  () => current.value && verdict.value!.outcome !== "incomplete" && seen.value?.status !== "signed" && session.may("walk"),
);
const mine = computed(() => verdict.value?.released.some((r) => r.other_must_sign && r.by === session.person?.id) ?? false);

onMounted(() => w.load());

function toCheckpoint(id: string) {
  const station = walk.value?.checkpoints.find((c) => c.id === id)?.station;
  void (station ? w.add({ kind: "arrived", station }) : Promise.resolve("")).then(() =>
    router.push({ name: "walk", params: { machine: props.machine, inspection: props.inspection } }),
  );
}
const checkpointNames = computed(() => new Map((walk.value?.checkpoints ?? []).map((c) => [c.id, c.name])));
const places = computed(() => new Map((walk.value?.checkpoints ?? []).map((c) => [c.id, c.at ?? null])));

async function sign() {
  if (!maySign.value || busy.value || !verdict.value) return;
  busy.value = true;
  says.value = "";
  // Nothing that this device still keeps for this look may stay out of what is signed, from whichever tab it is.
  await outbox.count();
  if (!maySign.value || !verdict.value) {
    busy.value = false;
    return void outbox.flush(true);
  }
  const covers = [...w.heard.value].filter((id) => !w.signatures.value.has(id)).sort();
  const id = await w.add({ kind: "signed", covers, outcome: verdict.value.outcome, language: language.value });
  if (id) await outbox.flush(true);
  asking.value = false;
  const answers = id ? await outbox.answeredFor(id) : true;
  busy.value = false;
  if (!answers) return;
  // It is signed when the server says so, and not before.
  const state = id ? await outbox.stateOf(id) : null;
  if (state !== 1) {
    const no = outbox.refused.find((r) => r.id === id);
    says.value = !id
      ? t("walk.deviceFullText")
      : no
        ? (no.says ?? "")
        : outbox.signedOut
          ? t("verdict.signedOut")
          : t("verdict.signedAway");
    if (no) {
      await outbox.letGo(no.id);
      await w.refresh();
    }
    return;
  }
  await router.replace({ name: "record", params: { inspection: props.inspection } });
}
</script>

<template>
  <div class="page stack">
    <h1>{{ t("verdict.title", { name: walk?.machine.name ?? "" }) }}</h1>
    <p v-if="outbox.away || waiting" class="card away" role="status">{{ t("verdict.notCurrent", waiting) }}</p>
    <p v-if="says" class="card away" role="alert" data-test="says">
      {{ says }}
      <RouterLink v-if="outbox.signedOut" class="button" :to="{ name: 'sign-in', query: { to: route.fullPath } }">{{
        t("signIn.enter")
      }}</RouterLink>
    </p>
    <p v-if="seen?.locked" class="card away" role="alert" data-test="locked">{{ seen.locked }}</p>
    <VerdictBody
      v-if="verdict && seen"
      :verdict="verdict"
      :drawing="walk?.drawing"
      :people="names"
      :photos="photos"
      :names="checkpointNames"
      :places="places"
      :hour-meter="seen.hour_meter"
      :meter-offset="seen.machine.meter_offset"
      :clears="seen.kind.clears"
      :signed="seen.status === 'signed'"
      @go="toCheckpoint" />
    <PaceCard v-if="seen" :pace="seen.pace" />
    <p class="quiet">{{ t("caution") }}</p>
    <p v-if="mine" class="card away">{{ t("verdict.otherSigns") }}</p>
    <div class="row spread wrap foot">
      <RouterLink class="button" :to="{ name: 'walk', params: { machine, inspection } }">{{ t("verdict.back") }}</RouterLink>
      <button type="button" class="button primary" :disabled="!maySign" data-test="sign" @click="asking = true">
        {{ t("verdict.sign", { name: session.person?.name }) }}
      </button>
    </div>
    <ElDialog v-model="asking" :title="t('verdict.signTitle')" width="560px">
      <p>{{ t("verdict.signText", { outcome: verdict ? t(`mark.${verdict.outcome}`) : "" }) }}</p>
      <p v-for="l in verdict?.limits" :key="l">· {{ l }}</p>
      <template #footer
        ><button type="button" class="button primary" :disabled="busy" data-test="sign-now" @click="sign">
          {{ t("verdict.signNow") }}
        </button></template
      >
    </ElDialog>
  </div>
</template>

<style scoped>
.foot { position: sticky; bottom: 0; background: var(--paper); padding: 12px 0; }
.foot .primary { min-height: 64px; }
.away { border: 2px solid var(--hold); font-weight: 560; }
</style>
