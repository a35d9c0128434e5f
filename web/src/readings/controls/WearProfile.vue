<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { useDragged } from "../useDragged";

/** A part in section: its new outline dashed, its limit a line, the edge that is left is dragged. */
const props = defineProps<{ name: string; part: string; fresh: number; limit: number }>();
const model = defineModel<number>({ required: true });
const { t } = useI18n();
const W = 220,
  H = 230,
  BASE = 200;

const down = computed(() => props.fresh > props.limit);
const most = computed(() => Math.max(props.fresh, props.limit) * 1.08);
const toY = (v: number) => BASE - (Math.max(0, v) / most.value) * (BASE - 24);
const { on } = useDragged(
  model,
  () => ({ low: 0, high: Math.round(most.value), step: 1 }),
  { width: W, height: H },
  (_, y) => ((BASE - y) / (BASE - 24)) * most.value,
);
/** An outline of the part up to a height: a plate, a tooth, a bar on its plate, blocks of tread. */
const outline = (v: number) => {
  const y = toY(v);
  if (props.part === "tip") return `M60 ${BASE}L78 ${y + 10}Q95 ${y - 6} 112 ${y + 10}L130 ${BASE}Z`;
  if (props.part === "grouser") return `M40 ${BASE}V${BASE - 16}H80L84 ${y}H106L110 ${BASE - 16}H150V${BASE}Z`;
  if (props.part === "tread") return `M36 ${BASE}V${y}H66V${BASE - 8}H80V${y}H110V${BASE - 8}H124V${y}H154V${BASE}Z`;
  if (props.part === "roller" || props.part === "bushing") return `M50 ${BASE}V${y + 14}Q95 ${y - 14} 140 ${y + 14}V${BASE}Z`;
  return `M64 ${BASE}V${y}H126V${BASE}Z`;
};
const worn = computed(() => Math.round((100 * (props.fresh - model.value)) / (props.fresh - props.limit)));
</script>

<template>
  <svg
    :viewBox="`0 0 ${W} ${H}`"
    class="profile"
    role="slider"
    tabindex="0"
    :aria-label="name"
    aria-valuemin="0"
    :aria-valuemax="Math.round(most)"
    :aria-valuenow="model"
    :aria-valuetext="t('reading.worn', { mm: model, p: worn })"
    data-test="profile"
    v-on="on">
    <path :d="outline(fresh)" class="fresh" />
    <path :d="outline(model)" class="now" />
    <path :d="`M26 ${toY(limit)}H168`" class="limit" />
    <text x="170" :y="toY(limit) + 5" class="limits">{{ t("reading.limit") }}</text>
    <text x="170" :y="toY(fresh) + 5">{{ t(down ? "reading.fresh" : "reading.fresh") }}</text>
    <g :transform="`translate(0 ${toY(model)})`" class="grip">
      <path d="M26 0H168" />
      <circle cx="18" cy="0" r="17" />
    </g>
    <text x="95" :y="BASE + 24" class="middle">{{ t("reading.wornShort", { mm: model, p: worn }) }}</text>
  </svg>
</template>

<style scoped>
.profile { width: 100%; max-width: 280px; touch-action: none; cursor: ns-resize; user-select: none; }
.fresh { fill: none; stroke: var(--soft); stroke-dasharray: 6 5; stroke-width: 1.8; }
.now { fill: var(--steel); stroke: var(--ink); stroke-width: 2.4; stroke-linejoin: round; }
.limit { stroke: var(--hold); stroke-width: 3; } .limits { fill: var(--hold); }
text { font-size: 15px; fill: var(--ink); } .middle { text-anchor: middle; font-size: 17px; font-weight: 600; }
.grip path { stroke: var(--here); stroke-width: 3; } .grip circle { fill: var(--here); }
</style>
