<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";

import LanguageButton from "../app/LanguageButton.vue";
import type { useWalk } from "./useWalk";

/** The look itself: who takes part, handing it over, leaving it with a reason. */
const props = defineProps<{ w: ReturnType<typeof useWalk> }>();
const open = defineModel<boolean>({ required: true });
const { t } = useI18n();
const router = useRouter();
const note = ref("");
const why = ref("");
const people = computed(() => (props.w.seen.value?.joined ?? []).map((p) => props.w.seen.value?.people[p] ?? p).join(", "));

async function handOver() {
  if ((await props.w.add({ kind: "handed-over", note: note.value.trim() })) === null) return;
  note.value = "";
  open.value = false;
  await router.push("/");
}
async function abandon() {
  if ((await props.w.add({ kind: "abandoned", reason: why.value.trim() })) === null) return;
  open.value = false;
  await router.push("/");
}
</script>

<template>
  <ElDialog v-model="open" :title="t('look.title')" width="620px">
    <div class="stack">
      <p class="tongue"><LanguageButton /></p>
      <p v-if="people">
        <b>{{ t("look.people") }}</b> {{ people }}
      </p>
      <p v-if="w.seen.value?.handed_over" class="card">{{ t("look.handed", { note: w.seen.value.handed_over }) }}</p>
      <section class="stack">
        <label for="hand-over-note">{{ t("look.handOverNote") }}</label>
        <ElInput id="hand-over-note" v-model="note" type="textarea" :rows="2" maxlength="1000" data-test="hand-over-note" />
        <button type="button" class="button" :disabled="!note.trim()" data-test="hand-over" @click="handOver">
          {{ t("look.handOver") }}
        </button>
      </section>
      <section class="stack end">
        <label for="abandon-why">{{ t("approach.abandonWhy") }}</label>
        <ElInput id="abandon-why" v-model="why" maxlength="1000" data-test="abandon-why" />
        <p class="quiet">{{ t("look.abandonText") }}</p>
        <button type="button" class="button" :disabled="why.trim().length < 3" data-test="abandon" @click="abandon">
          {{ t("approach.abandonNow") }}
        </button>
      </section>
    </div>
  </ElDialog>
</template>

<style scoped>
.end { border-top: 1px solid var(--line); padding-top: 14px; }
</style>
