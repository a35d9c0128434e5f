<script setup lang="ts">
import { ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { LEVEL } from "../walkaround/useWalk";
import { clock } from "../app/times";

const props = defineProps<{ seen: Schemas["InspectionOut"]; walk: Schemas["WalkOut"] }>();
const { t } = useI18n();
const session = useSession();
const open = ref(false);

const name = (id: unknown) =>
  props.walk.checkpoints.find((c) => c.id === id)?.name ?? props.walk.stations.find((s) => s.id === id)?.name ?? String(id ?? "");
const level = (w: Record<string, unknown>, given: Record<string, unknown>) =>
  t("entry.measuredText", { name: name(w.checkpoint), f: Math.round(100 * (given.seen as number)), c: given.oil_c });
function says(e: Schemas["EntryOut"]): string {
  const w = e.what as Record<string, unknown>;
  switch (e.kind) {
    case "answered":
      return `${name(w.checkpoint)}: ${t(`answer.${w.answer as string}`)}${w.together ? ` · ${t("entry.together")}` : ""}${w.amends ? ` · ${t("record.amends", { why: w.amends })}` : ""}${w.reason ? ` · ${w.reason as string}` : ""}`;
    case "measured": // the form that a level had before
      return level(w, w);
    case "read":
      if (w.reading === LEVEL) return [level(w, w.given as Record<string, unknown>), w.reason].filter(Boolean).join(" · ");
      return [
        `${name(w.checkpoint)}: ${props.seen.verdict.readings?.find((r) => r.entry === e.id)?.title ?? (w.reading as string)}`,
        props.seen.verdict.readings?.find((r) => r.entry === e.id)?.judgement.action,
        (w.put_right as { done: string } | null)?.done,
        w.reason,
      ]
        .filter(Boolean)
        .join(" · ");
    case "noted":
      return `${name(w.checkpoint)} ${w.text as string}`;
    case "undone":
      return [t("entry.undoneText"), w.reason].filter(Boolean).join(" · ");
    case "abandoned":
      return w.reason as string;
    case "handed-over":
      return w.note as string;
    case "arrived":
      return name(w.station);
    case "photographed":
      return name(w.checkpoint);
    default:
      return "";
  }
}
</script>

<template>
  <section class="card">
    <button type="button" class="line" :aria-expanded="open" @click="open = !open">
      <h2 class="h3">{{ t("record.log", { n: seen.entries.length }) }}</h2>
      <span class="quiet">{{ open ? t("verdict.close") : t("record.show") }}</span>
    </button>
    <table v-if="open">
      <tbody>
        <tr v-for="e in seen.entries" :key="e.id" :class="{ not: !e.counts }">
          <td class="figure">{{ clock(e.at, session.zone) }}</td>
          <td>{{ t(`entry.${e.kind}`) }}</td>
          <td>
            {{ says(e)
            }}<small v-if="!e.counts" class="quiet"> · {{ e.says ? t("entry.noRight", { says: e.says }) : t("entry.takenBack") }}</small>
          </td>
          <td class="quiet">{{ seen.people[e.by] }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.line { display: flex; justify-content: space-between; align-items: center; width: 100%; background: none; border: 0; min-height: 56px; cursor: pointer; padding: 0; text-align: left; }
table { width: 100%; border-collapse: collapse; font-size: 16px; }
small { display: block; }
.not td:nth-child(3) { text-decoration: none; color: var(--soft); }
td { border-top: 1px solid var(--line); padding: 6px 8px 6px 0; vertical-align: top; }
</style>
