<script setup lang="ts">
import { ElDialog, ElInput } from "element-plus";
import { reactive, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { uuid7 } from "../parts/device";
import NumberField from "../parts/NumberField.vue";

const props = defineProps<{ file: Schemas["MachineFileOut"] }>();
const open = defineModel<boolean>({ required: true });
const emit = defineEmits<{ saved: [file: Schemas["MachineFileOut"]] }>();
const { t } = useI18n();
const says = ref("");
const form = reactive({ id: "", last: 0, first: 0, why: "" });
watch(open, (now) => {
  if (now) Object.assign(form, { id: uuid7(), last: props.file.meter, first: 0, why: "" });
  says.value = "";
});

async function save() {
  const reply = await call("post", "/api/machines/{machine}/meter", {
    params: { path: { machine: props.file.machine.id } },
    body: { ...form },
  });
  if (reply.ok) emit("saved", reply.data);
  else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
</script>

<template>
  <ElDialog v-model="open" :title="t('file.replace')" width="520px">
    <div class="stack">
      <label class="row spread"
        ><span>{{ t("file.lastOld") }}</span
        ><NumberField v-model="form.last" :min="0" :max="200000" :precision="1" :aria-label="t('file.lastOld')" data-test="meter-last"
      /></label>
      <label class="row spread"
        ><span>{{ t("file.firstNew") }}</span
        ><NumberField v-model="form.first" :min="0" :max="200000" :precision="1" :aria-label="t('file.firstNew')" data-test="meter-first"
      /></label>
      <label class="stack"
        ><span>{{ t("file.why") }}</span
        ><ElInput v-model="form.why" maxlength="200" :aria-label="t('file.why')" data-test="meter-why"
      /></label>
      <p v-if="says" class="bad" role="alert">{{ says }}</p>
    </div>
    <template #footer
      ><button type="button" class="button primary" data-test="meter-save" @click="save">{{ t("file.save") }}</button></template
    >
  </ElDialog>
</template>

<style scoped>
.bad { color: var(--hold); font-weight: 560; }
:deep(.el-input__wrapper) { min-height: 56px; }
</style>
