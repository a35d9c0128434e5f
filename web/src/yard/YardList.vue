<script setup lang="ts">
import { useVirtualList } from "@vueuse/core";
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useSession } from "../app/session";
import { dayAndTime } from "../app/times";
import GradeMark from "../parts/GradeMark.vue";
import { actionOf, placeOf } from "./action";
import { grouped, type Grouping } from "./grouping";

/** The machines as lines of one height, so that of hundreds only those in sight are drawn. */
type Machine = Schemas["YardMachineOut"];
const props = defineProps<{
  machines: Machine[];
  /** What they stand together by. */ by: Grouping;
  /** Every one of them, for paper. */ whole: boolean;
}>();
/** px of a line, with what is between two: on a phone five have room. */
const LINE = window.innerWidth < 700 ? 92 : 104;
const FEW = 60;
const { t } = useI18n();
const session = useSession();
interface Line {
  key: string;
  head?: string;
  n?: number;
  m?: Machine;
}
/** A heading before each group, of a line's height like the others. */
const lines = computed<Line[]>(() =>
  grouped(props.machines, props.by).flatMap((g) => [
    ...(g.name
      ? [{ key: `group ${g.name}`, head: props.by === "go" ? t(`mark.${g.name as Machine["go"]}`) : g.name, n: g.machines.length }]
      : []),
    ...g.machines.map((m) => ({ key: m.machine.id, m })),
  ]),
);
const many = computed(() => props.machines.length > FEW && !props.whole);
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(lines, { itemHeight: LINE, overscan: 6 });
const shown = computed(() => (many.value ? list.value.map((x) => x.data) : lines.value));
// Another choice begins at its top.
watch(
  () => lines.value.map((l) => l.key).join(),
  () => many.value && scrollTo(0),
);
const when = (at: string | null) => (at ? dayAndTime(at, session.zone) : "");
const why = (m: Schemas["YardMachineOut"]) => (m.limits.length ? m.limits.join(" ") : m.why);
</script>

<template>
  <div
    v-bind="many ? containerProps : {}"
    :class="{ window: many }"
    :tabindex="many ? 0 : undefined"
    :role="many ? 'region' : undefined"
    :aria-label="many ? t('yard.list') : undefined"
    data-test="yard-list">
    <ul class="list" :style="many ? wrapperProps.style : undefined">
      <template v-for="{ key, head, n, m } in shown" :key="key">
        <li v-if="head" :class="['head', { short: !many }]" :data-test="`group-${head}`">
          <h2 class="h3">{{ t("yard.groupHead", { name: head, n }) }}</h2>
        </li>
        <li v-else-if="m" class="card" :class="{ whole }" :data-test="`row-${m.machine.id}`">
          <GradeMark :mark="m.go" :size="44" silent />
          <div class="grow">
            <h2 class="h3">
              <RouterLink class="file" :to="{ name: 'machine', params: { machine: m.machine.id } }">{{ m.machine.name }}</RouterLink> ·
              {{ t(`mark.${m.go}`) }} <span class="quiet model">{{ m.machine.maker }} {{ m.machine.model }}</span>
            </h2>
            <p class="why" :title="[m.why, ...m.limits].join(' ')">{{ why(m) }}</p>
            <p v-if="m.current" class="quiet who">{{ t("yard.under", { name: m.walked_by, n: m.answered, of: m.planned }) }}</p>
            <p v-else-if="m.signed_by" class="quiet who">{{ t("yard.signed", { name: m.signed_by, at: when(m.signed_at) }) }}</p>
          </div>
          <RouterLink v-if="m.last" class="button record" :to="{ name: 'record', params: { inspection: m.last } }">{{
            t("yard.record")
          }}</RouterLink>
          <RouterLink class="button next" :class="{ primary: actionOf(m) !== 'again' }" :to="placeOf(m)">{{
            t(`yard.${actionOf(m)}`)
          }}</RouterLink>
        </li>
      </template>
    </ul>
  </div>
</template>

<style scoped>
.window { height: calc(100vh - 230px); min-height: 420px; overflow-y: auto; }
.list { list-style: none; margin: 0; padding: 0; }
.list li { display: flex; gap: 16px; align-items: center; height: 96px; margin-bottom: 8px; padding: 8px 16px; overflow: hidden; }
.list li.head { align-items: flex-end; padding-left: 0; } .list li.head.short { height: 56px; } .list li.whole { height: auto; }
.grow { flex: 1; min-width: 0; }
.h3, .who { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.model { font-weight: 420; }
.why { display: -webkit-box; -webkit-line-clamp: 1; -webkit-box-orient: vertical; overflow: hidden; }
.whole .why { display: block; }
.file { color: var(--ink); }
.next { flex: none; min-width: 130px; }
@media print { .button { display: none; } .list li { height: auto; margin: 0; break-inside: avoid; border: 0; border-bottom: 1px solid #000; border-radius: 0; } .why { display: block; } }
@media (max-width: 700px) { .list li { gap: 10px; padding: 4px 10px; height: 84px; } .h3 { font-size: 18px; } .record, .model, .who { display: none; } .next { width: 104px; min-width: 0; padding: 6px 8px; line-height: 1.15; } .why { font-size: 16px; line-height: 1.2; -webkit-line-clamp: 2; } }
</style>
