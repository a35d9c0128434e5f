<script setup lang="ts">
import { ElDialog, ElInput, ElOption, ElSelect } from "element-plus";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import DefectDrawer from "../walkaround/DefectDrawer.vue";
import { type Finding, type useWalk } from "../walkaround/useWalk";

const props = defineProps<{ w: ReturnType<typeof useWalk> }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ amended: [] }>();
const { t } = useI18n();
const checkpoint = ref("");
const reason = ref("");
const drawer = ref(false);

const walk = computed(() => props.w.walk.value!);
const target = computed(() => walk.value.checkpoints.find((c) => c.id === checkpoint.value) ?? null);
const ready = computed(() => target.value !== null && reason.value.trim().length > 2);
const opened = computed(() => props.w.opened.value);
const inspection = computed(() => props.w.seen.value?.id ?? "");

async function say(answer: "sound" | "defect" | "unseen", findings: Finding[] = []) {
  const kept = await props.w.add({
    kind: "answered",
    checkpoint: checkpoint.value,
    answer,
    findings,
    reason: "",
    amends: reason.value.trim(),
  });
  if (!kept) return;
  drawer.value = false;
  open.value = false;
  checkpoint.value = reason.value = "";
  emit("amended");
}
</script>

<template>
  <ElDialog v-model="open" :title="t('record.amend')" width="620px">
    <div class="stack">
      <ElSelect v-model="checkpoint" filterable :aria-label="t('record.which')" :placeholder="t('record.which')">
        <ElOption v-for="c in walk.checkpoints" :key="c.id" :value="c.id" :label="c.name" />
      </ElSelect>
      <label for="amend-why">{{ t("record.why") }}</label>
      <ElInput id="amend-why" v-model="reason" maxlength="1000" data-test="amend-why" />
      <div class="row wrap">
        <button type="button" class="button" :disabled="!ready" @click="say('unseen')">{{ t("card.unseenLong") }}</button>
        <button type="button" class="button" :disabled="!ready" data-test="amend-defect" @click="drawer = true">
          {{ t("card.defect") }}
        </button>
        <button type="button" class="button" :disabled="!ready" data-test="amend-sound" @click="say('sound')">{{ t("card.sound") }}</button>
      </div>
    </div>
    <DefectDrawer
      v-model="drawer"
      :walk="walk"
      :checkpoint="target"
      :machine="walk.machine.id"
      :inspection="inspection"
      :opened="opened"
      :before="[]"
      :photos="0"
      @save="(f) => say('defect', f)"
      @photo="(b) => w.addPhoto(checkpoint, b)" />
  </ElDialog>
</template>
