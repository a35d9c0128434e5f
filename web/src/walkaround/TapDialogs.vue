<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { useI18n } from "vue-i18n";

import type { useLap } from "./useLap";
import type { useTaps } from "./useTaps";

/** What a tap asks before it is taken: why, what was noted, what it takes, and whether to go there now. */
const props = defineProps<{ taps: ReturnType<typeof useTaps>; lap: ReturnType<typeof useLap> }>();
const { t } = useI18n();
const { dialog, target, text, needed } = props.taps;
const { early } = props.lap;

function putRight() {
  dialog.value = null;
  if (target.value) props.taps.defect(target.value);
}
</script>

<template>
  <ElDialog
    :model-value="dialog !== null"
    :title="t(`walk.${dialog ?? 'note'}Title`, { name: target?.name ?? '' })"
    width="560px"
    @close="dialog = null">
    <p v-if="dialog === 'sound' || dialog === 'undo'">{{ t("walk.reasonText") }}</p>
    <p v-if="dialog === 'cannot'" data-test="cannot">{{ t(`clear.${needed}`) }}</p>
    <ElInput v-else v-model="text" type="textarea" :rows="3" maxlength="1000" :aria-label="t('walk.why')" autofocus />
    <p v-if="dialog === 'unseen' && target?.mandatory" class="warn">{{ target.life ? t("walk.unseenLife") : t("walk.unseenMandatory") }}</p>
    <template #footer>
      <button
        v-if="dialog !== 'cannot'"
        type="button"
        class="button primary"
        data-test="save-text"
        :disabled="!text.trim() && dialog !== 'unseen'"
        @click="taps.saveText">
        {{ t(`walk.${dialog ?? "note"}Save`) }}
      </button>
      <button v-else-if="needed === 'put-right'" type="button" class="button primary" @click="putRight">{{ t("defect.putRight") }}</button>
      <button v-else type="button" class="button primary" @click="dialog = null">{{ t("look.understood") }}</button>
    </template>
  </ElDialog>
  <ElDialog :model-value="early !== null" :title="t('way.early')" width="560px" @close="early = null">
    <p v-for="s in early?.says ?? []" :key="s" class="warn">{{ s }}</p>
    <template #footer>
      <button type="button" class="button" data-test="go-anyway" @click="lap.goAnyway">{{ t("way.anyway") }}</button>
      <button type="button" class="button primary" data-test="stay" @click="early = null">{{ t("way.stay") }}</button>
    </template>
  </ElDialog>
</template>

<style scoped>
:deep(.el-dialog__footer) { display: flex; justify-content: flex-end; gap: 12px; flex-wrap: wrap; }
.warn { margin-top: 12px; color: var(--hold); font-weight: 560; }
</style>
