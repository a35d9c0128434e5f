<script setup lang="ts">
import { ElInput, ElOption, ElSelect, ElSwitch } from "element-plus";
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Problem, type Schemas } from "../api/client";
import { uuid7 } from "../parts/device";
import NumberField from "../parts/NumberField.vue";

const props = defineProps<{ file: Schemas["MachineFileOut"] | null; models: Schemas["ModelOut"][] }>();
const emit = defineEmits<{ saved: [file: Schemas["MachineFileOut"]]; cancel: [] }>();
const { t } = useI18n();
const problem = ref<Problem | null>(null);
const away = ref(false);
const busy = ref(false);
const f = props.file;
const form = reactive({
  id: f?.machine.id ?? "",
  name: f?.machine.name ?? "",
  model_id: f?.model.id ?? props.models[0]!.id,
  options: [...(f?.options ?? [])],
  own: Object.fromEntries(Object.entries(f?.own_limits ?? {}).map(([k, v]) => [k, String(v)])) as Record<string, string>,
  bay: f?.machine.bay ?? props.models.length + 1,
  note: f?.note ?? "",
  active: f?.active ?? true,
  hour_meter: 0,
});
const model = computed(() => props.models.find((m) => m.id === form.model_id) ?? props.models[0]!);
let entry = uuid7();

function pick(option: string) {
  form.options = form.options.includes(option) ? form.options.filter((o) => o !== option) : [...form.options, option];
}
const wrong = (field: string) => (problem.value?.field === field ? problem.value.detail.replace(`${field}: `, "") : "");

async function save() {
  if (busy.value) return;
  busy.value = true;
  problem.value = null;
  const own: Record<string, number | string> = {};
  for (const l of model.value.limits) {
    const text = (form.own[l.id] ?? "").trim();
    if (text) own[l.id] = l.unit && Number.isFinite(Number(text.replace(",", "."))) ? Number(text.replace(",", ".")) : text;
  }
  const known = new Set(model.value.options.map((o) => o.id));
  const reply = await call("put", "/api/machines/{machine}", {
    params: { path: { machine: form.id } },
    body: {
      id: entry,
      name: form.name,
      model_id: form.model_id,
      options: form.options.filter((o) => known.has(o)),
      own_limits: own,
      bay: form.bay,
      note: form.note,
      active: form.active,
      hour_meter: form.hour_meter,
    },
  });
  busy.value = false;
  away.value = !reply.ok && reply.away;
  if (reply.ok) return emit("saved", reply.data);
  problem.value = reply.problem;
  entry = uuid7(); // nothing was kept under the old id
}
</script>

<template>
  <form class="two" novalidate @submit.prevent="save">
    <section class="card stack">
      <label v-if="!file" class="field"
        ><span
          >{{ t("file.id") }}<small :class="{ bad: wrong('machine') }">{{ wrong("machine") || t("file.idHelp") }}</small></span
        ><ElInput v-model="form.id" maxlength="30" data-test="machine-id"
      /></label>
      <label class="field"
        ><span
          >{{ t("file.name") }}<small class="bad">{{ wrong("name") }}</small></span
        ><ElInput v-model="form.name" maxlength="40" data-test="machine-name"
      /></label>
      <div class="field">
        <span
          >{{ t("file.model") }}<small class="bad">{{ wrong("model_id") }}</small></span
        >
        <ElSelect v-model="form.model_id" :aria-label="t('file.model')" filterable data-test="machine-model"
          ><ElOption v-for="m in models" :key="m.id" :value="m.id" :label="`${m.maker} ${m.name} · ${m.family}`"
        /></ElSelect>
      </div>
      <label v-if="!file" class="field"
        ><span>{{ t("file.hours") }}</span
        ><NumberField
          v-model="form.hour_meter"
          :min="0"
          :max="200000"
          :precision="1"
          :aria-label="t('file.hours')"
          data-test="machine-hours"
      /></label>
      <label class="field"
        ><span>{{ t("file.bay") }}</span
        ><NumberField v-model="form.bay" :min="0" :max="9999" :aria-label="t('file.bay')"
      /></label>
      <label class="field"
        ><span>{{ t("file.active") }}</span
        ><ElSwitch v-model="form.active" :aria-label="t('file.active')"
      /></label>
      <label class="stack"
        ><span
          ><b>{{ t("file.note") }}</b></span
        ><ElInput v-model="form.note" type="textarea" :rows="3" maxlength="1000" :aria-label="t('file.note')"
      /></label>
    </section>
    <section class="card stack">
      <h2 class="h3">{{ t("file.options") }}</h2>
      <small class="bad">{{ wrong("options") }}</small>
      <div class="chips">
        <button
          v-for="o in model.options"
          :key="o.id"
          type="button"
          class="button"
          :class="{ chosen: form.options.includes(o.id) }"
          :aria-pressed="form.options.includes(o.id)"
          :data-test="`option-${o.id}`"
          @click="pick(o.id)">
          {{ o.name }}
        </button>
      </div>
    </section>
    <section class="card stack">
      <h2 class="h3">{{ t("file.limits") }}</h2>
      <p class="quiet">{{ t("file.ownHint") }}</p>
      <label v-for="l in model.limits" :key="l.id" class="field"
        ><span
          >{{ l.unit ? t("file.withUnit", { name: l.name, unit: l.unit }) : l.name
          }}<small class="bad">{{ wrong(`own_limits.${l.id}`) }}</small></span
        >
        <ElSelect
          v-if="l.choices.length"
          v-model="form.own[l.id]"
          class="narrow"
          clearable
          :placeholder="l.choices.find((c) => c.id === l.value)?.name ?? ''"
          :aria-label="l.name"
          :data-test="`own-${l.id}`"
          ><ElOption v-for="c in l.choices" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
        <ElInput
          v-else
          v-model="form.own[l.id]"
          class="narrow"
          :placeholder="l.value === null ? '' : String(l.value)"
          :inputmode="l.unit ? 'decimal' : 'text'"
          :aria-label="l.name"
          :data-test="`own-${l.id}`"
      /></label>
    </section>
    <div class="row wrap end">
      <p v-if="away" class="bad" role="alert">{{ t("connection.awayLong") }}</p>
      <p v-else-if="problem" class="bad" role="alert" data-test="file-problem">{{ problem.detail }}</p>
      <button type="button" class="button" @click="emit('cancel')">{{ t("file.cancel") }}</button>
      <button type="submit" class="button primary" :disabled="busy" data-test="save-file">{{ t("file.save") }}</button>
    </div>
  </form>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1.1fr 1fr 1.1fr; gap: 20px; align-items: start; }
.field { display: flex; justify-content: space-between; align-items: center; gap: 14px; font-weight: 560; min-height: 58px; }
.field > :deep(.el-input), .field > :deep(.el-select) { width: 58%; flex: none; }
.field > :deep(.narrow) { width: 46%; }
:deep(.el-input__wrapper) { min-height: 56px; }
small { display: block; font-size: 15px; color: var(--soft); font-weight: 420; }
.bad { color: var(--hold); font-weight: 560; }
.end { grid-column: 1 / -1; justify-content: flex-end; }
@media (max-width: 1100px) { .two { grid-template-columns: 1fr 1fr; } }
@media (max-width: 800px) { .two { grid-template-columns: 1fr; } }
</style>
