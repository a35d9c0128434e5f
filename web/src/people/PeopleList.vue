<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { call, type Schemas } from "../api/client";
import { useTold } from "../data/queries";
import { uuid4 } from "../parts/device";
import ListCard from "../parts/ListCard.vue";
import { useListIn } from "../parts/useListIn";

/** Many people from one list: looked at first, line by line; added when no line is refused, with a PIN for each. */
type Line = Schemas["PeopleListOut"]["lines"][number];
const { t } = useI18n();
const told = useTold();
const list = useListIn<Line>((body) => call("post", "/api/people-list", { body }), {
  most: 100_000,
  newId: uuid4,
  adds: (x) => x.does === "new" || x.does === "waits",
  taken: () => told.people(),
});
const { news, says, busy, done, may, count, fresh } = list;
const some = computed(() => Boolean(news.value?.kept || done.value?.done));
const status = computed(() => {
  if (!news.value) return "";
  if (news.value.kept) return t("peopleList.kept");
  if (done.value?.done) return `${t("listIn.stopped", done.value)} ${t("peopleList.kept")}`;
  return t("peopleList.would", { n: fresh.value.length, same: count("same"), refused: count("refused") });
});
const keep = computed(() => {
  if (!may.value) return "";
  return busy.value ? t("peopleList.busy") : done.value?.done ? t("listIn.goOn") : t("peopleList.keep", fresh.value.length);
});
const pins = computed(() => (some.value ? [t("peopleList.pin")] : []));
const cells = (x: Line) => [
  x.name,
  x.does === "refused" ? x.role : t(`role.${x.role}`),
  ...(some.value ? [x.pin] : []),
  [list.taken(x) && x.does === "new" ? t("listIn.taken") : t(`peopleList.does.${x.does}`), x.says].filter(Boolean).join(" · "),
];
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
    :keep="keep"
    :busy="busy"
    :done="done"
    @file="list.look"
    @keep="list.keep"
    @stop="list.stop" />
</template>
