<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import { uuid4 } from "../parts/device";
import ListCard from "../parts/ListCard.vue";

/** Many people from one list: looked at first, line by line; added when no line is refused, with a PIN for each. */
const { t } = useI18n();
const told = useTold();
const text = ref("");
const id = ref("");
const news = ref<Schemas["PeopleListOut"] | null>(null);
const says = ref("");
const busy = ref(false);
type Line = Schemas["PeopleListOut"]["lines"][number];
const count = (...does: string[]) => news.value?.lines.filter((x) => does.includes(x.does)).length ?? 0;
const may = computed(() => news.value !== null && !news.value.kept && count("refused") === 0 && count("new", "waits") > 0);
const status = computed(() => {
  if (!news.value) return "";
  return news.value.kept
    ? t("peopleList.kept")
    : t("peopleList.would", { n: count("new", "waits"), same: count("same"), refused: count("refused") });
});
const pins = computed(() => (news.value?.kept ? [t("peopleList.pin")] : []));
const cells = (x: Line) => [
  x.name,
  x.does === "refused" ? x.role : t(`role.${x.role}`),
  ...(news.value?.kept ? [x.pin] : []),
  [t(`peopleList.does.${x.does}`), x.says].filter(Boolean).join(" · "),
];

async function ask(keep: boolean) {
  says.value = "";
  busy.value = true;
  const reply = await call("post", "/api/people-list", { body: { id: id.value, text: text.value, keep } });
  busy.value = false;
  if (reply.ok) {
    news.value = reply.data;
    if (reply.data.kept) await told.people();
  } else says.value = reply.problem?.detail ?? t("connection.awayLong");
}
async function look(file: Blob) {
  news.value = null;
  text.value = (await file.text()).slice(0, 100_000);
  id.value = uuid4();
  await ask(false);
}
</script>

<template>
  <ListCard
    name="people-list"
    :title="t('peopleList.title')"
    :how="t('peopleList.how')"
    :out="t('peopleList.out')"
    :says="says"
    :status="status"
    :heads="[t('people.name'), t('people.role'), ...pins]"
    :lines="news?.lines ?? []"
    :cells="cells"
    :keep="may ? (busy ? t('peopleList.busy') : t('peopleList.keep', count('new', 'waits'))) : ''"
    :busy="busy"
    @file="look"
    @keep="ask(true)" />
</template>
