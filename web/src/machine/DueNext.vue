<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { day, dayAndTime } from "../app/times";
import { figure } from "../app/language";
import { useDefects, useSays, useSeries, useYard } from "../data/queries";
import PageState from "../parts/PageState.vue";

/** What comes due on a machine, the soonest first: its inspection, what is to be mended, what nears its limit. */
const props = defineProps<{ machine: string; meter: number }>();
const { t } = useI18n();
const session = useSession();
const { data: told, error: noYard } = useYard();
const { data: open, error: noDefects } = useDefects(ref({ machine: props.machine, most: 200 }));
const { data: series, error: noSeries } = useSeries(props.machine);
const failed = useSays(computed(() => noYard.value ?? noDefects.value ?? noSeries.value));
/** Only who has heard all of it can say that nothing is due. */
const heard = computed(() => Boolean(told.value && open.value && series.value));
const nothing = computed(() => heard.value && !dues.value.length && !open.value?.pages.at(-1)?.after);
interface Due {
  key: string;
  at: number;
  what: string;
  when: string;
  to: object;
}
const MOST = 6;
const dues = computed<Due[]>(() => {
  const out: Due[] = [];
  const params = { machine: props.machine };
  const until = told.value?.yard.machines.find((m) => m.machine.id === props.machine)?.valid_until;
  if (until)
    out.push({
      key: "until",
      at: Date.parse(until),
      what: t("due.inspection"),
      when: dayAndTime(until, session.zone),
      to: { name: "approach", params },
    });
  for (const d of open.value?.pages.flatMap((p) => p.defects) ?? []) {
    if (!d.due || d.release) continue;
    const likely = d.due.likely;
    out.push({
      key: d.id,
      at: likely ? Date.parse(likely) : Infinity,
      what: t("due.mend", { place: d.place, failure: d.failure }),
      when: [
        t(props.meter > d.due.hour ? "due.over" : "due.meter", { h: figure(d.due.hour, 1) }),
        likely ? t("due.around", { at: day(likely, session.zone) }) : "",
      ]
        .filter(Boolean)
        .join(", "),
      to: { name: "defect", params: { ...params, defect: d.id } },
    });
  }
  for (const s of series.value ?? [])
    if (s.reaches)
      out.push({
        key: s.checkpoint + s.key,
        at: Date.parse(s.reaches),
        what: t("due.limit", { place: s.place, reading: s.title }),
        when: t("due.around", { at: day(s.reaches, session.zone) }),
        to: { name: "trends", params },
      });
  return out.sort((a, b) => a.at - b.at);
});
</script>

<template>
  <section class="card stack" data-test="due">
    <h2 class="h3">{{ t("due.title") }}</h2>
    <PageState :says="failed" :waits="!heard" :lines="1" :nothing="nothing ? t('due.none') : undefined" />
    <ol v-if="dues.length">
      <li v-for="d in dues.slice(0, MOST)" :key="d.key">
        <RouterLink :to="d.to">{{ d.what }}</RouterLink>
        <span class="quiet">{{ d.when }}</span>
      </li>
    </ol>
    <RouterLink v-if="dues.length > MOST" :to="{ name: 'machine-defects', params: { machine } }">{{
      t("due.more", { n: dues.length - MOST })
    }}</RouterLink>
  </section>
</template>

<style scoped>
ol { list-style: none; margin: 0; padding: 0; } li { display: grid; gap: 0 12px; padding: 6px 0; border-top: 1px solid var(--line); } a { font-weight: 600; color: var(--ink); min-height: 44px; display: inline-flex; align-items: center; }
</style>
