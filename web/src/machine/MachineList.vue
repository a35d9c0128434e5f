<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import { uuid7 } from "../parts/device";
import ListCard from "../parts/ListCard.vue";

/** Many machines from one list: looked at first, line by line; taken in when no line is refused. */
const { t } = useI18n();
const tell = useTold();
const text = ref("");
const id = ref("");
const news = ref<Schemas["MachineListOut"] | null>(null);
const says = ref("");
const busy = ref(false);
type Line = Schemas["MachineListOut"]["lines"][number];
const count = (does: string) => news.value?.lines.filter((x) => x.does === does).length ?? 0;
const may = computed(() => news.value !== null && !news.value.kept && count("refused") === 0 && count("new") > 0);
const status = computed(() => {
  if (!news.value) return "";
  return news.value.kept
    ? t("machineList.kept", count("new"))
    : t("machineList.would", { n: count("new"), same: count("same"), refused: count("refused") });
});
const cells = (x: Line) => [x.number, x.model, t(`machineList.does.${x.does}`) + (x.says ? ` · ${x.field}: ${x.says}` : "")];

async function ask(keep: boolean) {
  says.value = "";
  busy.value = true;
  const reply = await call("post", "/api/machine-list", { body: { id: id.value, text: text.value, keep } });
  busy.value = false;
  if (reply.ok) {
    news.value = reply.data;
    if (reply.data.kept) await tell.models();
  } else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
async function look(file: Blob) {
  news.value = null;
  text.value = (await file.text()).slice(0, 500_000);
  id.value = uuid7();
  await ask(false);
}
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
    :keep="may ? t('machineList.keep', count('new')) : ''"
    :busy="busy"
    @file="look"
    @keep="ask(true)" />
</template>
