<script setup lang="ts">
import { ElInput } from "element-plus";
import { ref } from "vue";
import { useI18n } from "vue-i18n";

/** Takes one's last word back; what stands against the machine only with a reason. */
const props = defineProps<{ what: string; stands: boolean }>();
const emit = defineEmits<{ undo: [reason: string] }>();
const { t } = useI18n();
const asking = ref(false);
const why = ref("");

function take() {
  if (props.stands && !asking.value) asking.value = true;
  else emit("undo", why.value.trim());
}
</script>

<template>
  <form v-if="asking" class="card stack" @submit.prevent="take">
    <p>{{ t("run.slipSays") }}</p>
    <ElInput v-model="why" maxlength="400" :placeholder="t('run.slipWhy')" :aria-label="t('run.slipWhy')" data-test="slip-why" />
    <div class="row wrap">
      <button type="submit" class="button" :disabled="why.trim().length < 3" data-test="slip-take">{{ t("run.slipTake") }}</button><button
        type="button"
        class="button plain"
        @click="asking = false">
        {{ t("run.slipKeep") }}
      </button>
    </div>
  </form>
  <button v-else type="button" class="button plain undo" data-test="undo" @click="take">{{ t("run.undo", { what }) }}</button>
</template>

<style scoped>
.undo { align-self: flex-start; font-weight: 460; } p { margin: 0; }
</style>
