<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import { uuid7 } from "../parts/device";
import ListCard from "../parts/ListCard.vue";
import { useListIn } from "../parts/useListIn";

/** Many machines from one list: looked at first, line by line; taken in when no line is refused. */
type Line = Schemas["MachineListOut"]["lines"][number];
const { t } = useI18n();
const told = useTold();
const list = useListIn<Line>((body) => call("post", "/api/machine-list", { body }), {
  most: 500_000,
  newId: uuid7,
  adds: (x) => x.does === "new",
  taken: () => told.models(),
});
const { news, says, busy, done, may, count, fresh } = list;
const status = computed(() => {
  if (!news.value) return "";
  if (news.value.kept) return t("machineList.kept", fresh.value.length);
  if (done.value?.done) return t("listIn.stopped", done.value);
  return t("machineList.would", { n: count("new"), same: count("same"), refused: count("refused") });
});
const keep = computed(() => (!may.value ? "" : done.value?.done ? t("listIn.goOn") : t("machineList.keep", fresh.value.length)));
const cells = (x: Line) => [
  x.number,
  x.model,
  (list.taken(x) ? t("listIn.taken") : t(`machineList.does.${x.does}`)) + (x.says ? ` · ${x.field}: ${x.says}` : ""),
];
</script>

<template>
  <ListCard
    name="machine-list"
    :title="t('machineList.title')"
    :how="t('machineList.how')"
    :out="t('machineList.out')"
    :says="says"
    :status="status"
    :heads="[t('machineList.number'), t('machineList.model')]"
    :lines="news?.lines ?? []"
    :cells="cells"
    :keep="keep"
    :busy="busy"
    :done="done"
    @file="list.look"
    @keep="list.keep"
    @stop="list.stop" />
</template>
