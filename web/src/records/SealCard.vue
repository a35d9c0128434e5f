<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { checkSeals, type CheckedSeals } from "./seals";

/** Who wrote each entry, checked by this device itself. */
const props = defineProps<{ inspection: string; people: Record<string, string> }>();
const { t } = useI18n();
const session = useSession();
const busy = ref(false);
const found = ref<CheckedSeals | null>(null);
const says = ref("");

async function check() {
  busy.value = true;
  says.value = "";
  const reply = await call("get", "/api/inspections/{inspection}/record.json", { params: { path: { inspection: props.inspection } } });
  if (reply.ok) {
    found.value = await checkSeals(reply.data as Schemas["Record"]);
    if (!found.value) says.value = t("seals.cannot");
  } else says.value = reply.problem?.detail ?? t("seals.away");
  busy.value = false;
}
</script>

<template>
  <section class="card stack">
    <div class="row spread wrap">
      <h2 class="h3">{{ t("seals.title") }}</h2>
      <button type="button" class="button" :disabled="busy" data-test="check-seals" @click="check">{{ t("seals.check") }}</button>
    </div>
    <p v-if="says" role="status">{{ says }}</p>
    <div v-if="found" role="status" data-test="seals" :data-sealed="found.sealed" :data-wrong="found.wrong.length">
      <p v-if="found.strange" class="bad">{{ t("seals.strange") }}</p>
      <p>
        {{ found.sealed ? t("seals.hold", { n: found.sealed }, found.sealed) : found.wrong.length ? "" : t("seals.none") }}
        <template v-if="found.bare && (found.sealed || found.wrong.length)">{{ t("seals.bare", { n: found.bare }, found.bare) }}</template>
      </p>
      <ul v-if="found.wrong.length" class="bad">
        <li v-for="e in found.wrong" :key="e.id">
          {{ t("seals.wrong", { kind: t(`entry.${e.kind}`), name: people[e.by] ?? e.by, at: dayAndTime(e.at, session.zone) }) }}
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.bad { border-left: 5px solid var(--hold); padding-left: 12px; font-weight: 560; } ul.bad { margin: 8px 0 0; padding-left: 30px; }
</style>
