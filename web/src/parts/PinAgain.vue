<script setup lang="ts">
import { ElDialog } from "element-plus";
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { call } from "../api/client";
import { givePin, wanted } from "./pinAgain";
import PinPad from "./PinPad.vue";

/** Whoever answers for something by name gives the PIN again: a tablet that lies about answers for nothing. */
const { t } = useI18n();
const session = useSession();
const name = ref("");
const pin = ref("");
const says = ref("");
const busy = ref(false);
const box = ref<HTMLElement | null>(null);
const keys = ref<InstanceType<typeof PinPad> | null>(null);
watch(
  wanted,
  async (now) => {
    pin.value = says.value = "";
    name.value = session.person?.name ?? "";
    if (!now || now.person === session.person?.id) return;
    // Somebody else wrote on this tablet: it is their word, and their PIN.
    const door = await call("get", "/api/door");
    if (door.ok) name.value = door.data.people.find((p) => p.id === now.person)?.name ?? "";
  },
  { immediate: true },
);

async function enter() {
  if (!wanted.value || pin.value.length < 4 || busy.value) return;
  const typed = pin.value;
  pin.value = says.value = "";
  busy.value = true;
  const problem = await givePin(wanted.value, typed);
  busy.value = false;
  if (problem) says.value = problem === "away" ? t("connection.awayLong") : problem.detail;
}
</script>

<template>
  <ElDialog
    :model-value="wanted !== null"
    :title="t('pinAgain.title')"
    width="min(420px, 94vw)"
    append-to-body
    @opened="box?.focus()"
    @close="wanted?.given(false)">
    <div ref="box" class="stack" data-test="pin-again" tabindex="-1" @keydown="keys?.key($event)">
      <p>{{ t("pinAgain.says", { name }) }}</p>
      <PinPad ref="keys" v-model="pin" :busy="busy" :enter="t('pinAgain.give')" @enter="enter" />
      <p class="says" role="alert">{{ says }}</p>
      <button type="button" class="button" @click="wanted?.given(false)">{{ t("pinAgain.not") }}</button>
    </div>
  </ElDialog>
</template>

<style scoped>
div:focus { outline: none; } .says { color: var(--hold); font-weight: 560; } p { margin: 0; }
</style>
