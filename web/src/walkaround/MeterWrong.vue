<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { uuid7 } from "../parts/device";
import { askPin, isPinAgain } from "../parts/pinAgain";
import { figure } from "../app/language";

/** An earlier reading of the hour meter was wrong: it is struck out, with a reason, and stays in the log. */
const props = defineProps<{ machine: string; reading: Schemas["ReadingOut"]; by: string }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ corrected: [] }>();
const { t } = useI18n();
const session = useSession();
const why = ref("");
const says = ref("");
let id = "";
watch(open, (now) => {
  if (now) id = uuid7();
});

async function strike() {
  const body = { id, reading: props.reading.entry, hours: null, why: why.value.trim() };
  const reply = await call("post", "/api/machines/{machine}/meter/correction", { params: { path: { machine: props.machine } }, body });
  if (!reply.ok && isPinAgain(reply.problem)) return void ((await askPin(session.person!.id, [id])) && (await strike()));
  if (!reply.ok) {
    says.value = reply.problem?.detail ?? t("connection.awayLong");
    return;
  }
  open.value = false;
  why.value = says.value = "";
  emit("corrected");
}
</script>

<template>
  <ElDialog v-model="open" :title="t('meter.title')" width="560px">
    <div class="stack">
      <p>{{ t("meter.text", { h: figure(reading.shown, 1), at: dayAndTime(reading.at, session.zone), name: by }) }}</p>
      <label for="meter-wrong-why">{{ t("meter.why") }}</label>
      <ElInput id="meter-wrong-why" v-model="why" maxlength="400" data-test="meter-wrong-why" />
      <p v-if="says" role="alert">{{ says }}</p>
    </div>
    <template #footer
      ><button type="button" class="button primary" :disabled="!why.trim()" data-test="meter-strike" @click="strike">
        {{ t("meter.strike") }}
      </button></template
    >
  </ElDialog>
</template>
