<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import { short } from "../readings/units";
import { toldOf, type PlotEvent, type PlotRow } from "./rows";

/** The same values as a table, newest first, for who listens and for who wants the figure. */
const props = defineProps<{ rows: PlotRow[]; events: PlotEvent[] }>();
const { t } = useI18n();
const session = useSession();
const MOST = 200;
const open = ref(false);
const lines = computed(() =>
  [
    ...props.rows.flatMap((r) =>
      r.points.map((p) => ({
        at: p.at,
        what: r.name,
        value: `${toldOf(p, short)} ${r.unit}`.trim(),
        by: p.by ?? "",
      })),
    ),
    ...props.events.map((e) => ({ at: e.at, what: e.says, value: "", by: "" })),
  ].sort((a, b) => b.at - a.at),
);
</script>

<template>
  <details data-test="plot-table" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>{{ t("plot.table") }}</summary>
    <div v-if="open" class="scroll" tabindex="0" role="region" :aria-label="t('plot.table')">
      <table>
        <tr v-for="(l, n) in lines.slice(0, MOST)" :key="n">
          <th scope="row">{{ dayAndTime(new Date(l.at).toISOString(), session.zone) }}</th>
          <td>{{ l.what }}</td>
          <td class="value">{{ l.value }}</td>
          <td>{{ l.by }}</td>
        </tr>
      </table>
      <p v-if="lines.length > MOST" class="quiet">{{ t("plot.more", { n: lines.length - MOST }) }}</p>
    </div>
  </details>
</template>

<style scoped>
summary { min-height: 56px; display: flex; align-items: center; cursor: pointer; font-weight: 560; }
summary::before { content: "▸"; margin-right: 8px; } details[open] > summary::before { content: "▾"; }
.scroll { max-height: 340px; overflow: auto; } table { border-collapse: collapse; font-size: 16px; width: 100%; }
th, td { text-align: left; font-weight: 400; padding: 6px 10px 6px 0; border-top: 1px solid var(--line); vertical-align: top; } .value { white-space: nowrap; font-weight: 620; }
</style>
