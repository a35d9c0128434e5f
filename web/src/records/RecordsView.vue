<script setup lang="ts">
import { ElOption, ElSelect, ElTable, ElTableColumn } from "element-plus";
import { useMediaQuery } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { useHistory, useSays, useYard } from "../data/queries";
import GradeMark from "../parts/GradeMark.vue";
import { figure } from "../app/language";
import PageState from "../parts/PageState.vue";

type Row = Schemas["InspectionRowOut"];

const { t } = useI18n();
const router = useRouter();
const session = useSession();
const narrow = useMediaQuery("(max-width: 800px)");
const machine = ref(String(useRoute().query.machine ?? ""));
const { data: history, error } = useHistory(machine);
const { data: told } = useYard();
const says = useSays(error);
const rows = computed(() => history.value?.inspections ?? []);
const machines = computed(() => told.value?.yard.machines.map((m) => m.machine) ?? []);

const name = computed(() => Object.fromEntries(machines.value.map((m) => [m.id, m.name])));
/** A look opens as its record, a run as it went. */
const place = (row: Row) =>
  row.kind === "run"
    ? { name: "run", params: { machine: row.machine }, query: { run: row.id } }
    : { name: "record", params: { inspection: row.id } };
const open = (row: Row) => router.push(place(row));
</script>

<template>
  <div class="page stack">
    <div class="row spread wrap">
      <h1>{{ t("records.title") }}</h1>
      <ElSelect v-model="machine" class="pick" :aria-label="t('records.machine')" :placeholder="t('records.all')">
        <ElOption value="" :label="t('records.all')" /><ElOption v-for="m in machines" :key="m.id" :value="m.id" :label="m.name" />
      </ElSelect>
    </div>
    <PageState :says="says" :waits="!history" :lines="6" />
    <ElTable v-if="history" :data="rows" row-class-name="record" :empty-text="t('records.none')" :show-header="!narrow" @row-click="open">
      <ElTableColumn width="66"
        ><template #header
          ><span class="sr-only">{{ t("records.state") }}</span></template
        ><template #default="{ row }"
          ><GradeMark
            v-if="row.kind !== 'run'"
            :mark="['walking', 'lapsed', 'abandoned'].includes(row.status) ? row.status : row.outcome"
            :size="38" /></template
      ></ElTableColumn>
      <ElTableColumn :label="t('records.machine')" :width="narrow ? 84 : 110"
        ><template #default="{ row }"
          ><RouterLink :to="place(row as Row)"
            ><b>{{ name[row.machine] ?? row.machine }}</b></RouterLink
          ></template
        ></ElTableColumn
      >
      <ElTableColumn :label="t('records.when')" :width="narrow ? 110 : 160"
        ><template #default="{ row }">{{ dayAndTime(row.opened_at, session.zone) }}</template></ElTableColumn
      >
      <ElTableColumn v-if="!narrow" :label="t('records.who')" width="170"
        ><template #default="{ row }">{{
          row.kind === "run" ? row.opened_by : (row.signed_by ?? t(`records.${row.status}`, { name: row.opened_by }))
        }}</template></ElTableColumn
      >
      <ElTableColumn v-if="!narrow" :label="t('records.kind')" width="170"
        ><template #default="{ row }">{{ row.kind_name }}</template></ElTableColumn
      >
      <ElTableColumn v-if="!narrow" :label="t('unit.hours')" width="110" align="right"
        ><template #default="{ row }"
          ><span class="figure">{{ figure(row.hour_meter, 1) }}</span></template
        ></ElTableColumn
      >
      <ElTableColumn :label="t('records.why')" min-width="120"
        ><template #default="{ row }"
          ><span class="why">{{ row.kind === "run" ? t("records.run") : row.why }}</span></template
        ></ElTableColumn
      >
    </ElTable>
  </div>
</template>

<style scoped>
.pick { width: 240px; }
:deep(.record) { cursor: pointer; }
:deep(.el-table) { --el-table-header-bg-color: var(--paper); --el-table-row-hover-bg-color: var(--paper); font-size: 17px; }
:deep(.el-table th.el-table__cell) { color: var(--ink); font-weight: 620; }
:deep(.el-table .cell) { line-height: 1.3; word-break: normal; }
.why { display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; }
a { display: inline-flex; min-height: 44px; align-items: center; color: var(--ink); }
</style>
