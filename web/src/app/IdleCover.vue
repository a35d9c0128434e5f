<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Problem } from "../api/client";
import PinPad from "../parts/PinPad.vue";
import { useSession } from "./session";

/** A tablet that lay untouched asks who is there, before anything is said in somebody's name. */
const props = defineProps<{ give: (pin: string) => Promise<Problem | "away" | null> }>();
const emit = defineEmits<{ word: []; other: [] }>();
const { t } = useI18n();
const session = useSession();
const pin = ref("");
const says = ref("");
const away = ref(false);
const busy = ref(false);
const box = ref<HTMLElement | null>(null);
const keys = ref<InstanceType<typeof PinPad> | null>(null);
onMounted(() => box.value?.focus());

async function enter() {
  if (pin.value.length < 4 || busy.value) return;
  const typed = pin.value;
  pin.value = says.value = "";
  busy.value = true;
  const problem = await props.give(typed);
  busy.value = false;
  away.value = problem === "away";
  if (problem) says.value = problem === "away" ? t("idle.away") : problem.detail;
}
</script>

<template>
  <div
    ref="box"
    class="cover"
    role="dialog"
    aria-modal="true"
    :aria-label="t('idle.title', { name: session.person?.name ?? '' })"
    tabindex="-1"
    data-test="idle"
    @keydown="keys?.key($event)">
    <div class="card stack">
      <h1>{{ t("idle.title", { name: session.person?.name ?? "" }) }}</h1>
      <p>{{ t("idle.says") }}</p>
      <PinPad ref="keys" v-model="pin" :busy="busy" :enter="t('idle.on')" @enter="enter" />
      <p class="says" role="alert">{{ says }}</p>
      <button v-if="away" type="button" class="button primary" data-test="idle-word" @click="emit('word')">
        {{ t("idle.word", { name: session.person?.name ?? "" }) }}
      </button>
      <div class="row wrap">
        <button type="button" class="button" data-test="idle-other" @click="emit('other')">{{ t("idle.other") }}</button><RouterLink
          class="button sos"
          to="/emergency"
          data-test="idle-emergency"
          >{{ t("emergency.title") }}</RouterLink
        >
      </div>
    </div>
  </div>
</template>

<style scoped>
.cover { position: fixed; inset: 0; z-index: 1500; overflow: auto; background: var(--paper); display: grid; place-items: center; padding: 12px; outline: none; }
.card { width: min(440px, 100%); } p { margin: 0; }
.says { color: var(--hold); font-weight: 560; min-height: 24px; }
.row .button { flex: 1; } .sos { border-color: var(--hold); color: var(--hold); }
</style>
