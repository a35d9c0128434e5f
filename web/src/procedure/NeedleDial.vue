<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import { figure } from "../app/language";
import type { Needle } from "./usePanel";

/** A needle over its bands: amber a thin double line, red a thick one, so that they differ without colour too.
 * Where the engine stands, a needle that is down is no warning. */
const props = defineProps<{ needle: Needle; still: boolean }>();
const { t } = useI18n();
const FROM = -120,
  SWEEP = 240,
  R = 42;
const share = (v: number) => Math.min(1, Math.max(0, (v - props.needle.low) / (props.needle.high - props.needle.low)));
const at = (part: number, r: number): [number, number] => {
  const a = ((FROM + SWEEP * part) * Math.PI) / 180;
  return [50 + r * Math.sin(a), 52 - r * Math.cos(a)];
};
function arc(low: number, high: number, r: number): string {
  const [x0, y0] = at(share(low), r),
    [x1, y1] = at(share(high), r);
  const large = SWEEP * (share(high) - share(low)) > 180 ? 1 : 0;
  return `M${x0.toFixed(2)} ${y0.toFixed(2)}A${r} ${r} 0 ${large} 1 ${x1.toFixed(2)} ${y1.toFixed(2)}`;
}
const value = computed(() => props.needle.value);
const tip = computed(() => (value.value === null ? null : at(share(value.value), R - 6)));
const digits = computed(() => (props.needle.high - props.needle.low < 40 ? 1 : 0));
const says = computed(() => (value.value === null ? t(`panel.lack.${props.needle.lack ?? "lost"}`) : figure(value.value, digits.value)));
const inBand = computed(() => {
  const v = value.value;
  return v === null || props.still ? "" : (props.needle.bands.find((b) => v >= b.low && v <= b.high)?.colour ?? "");
});
</script>

<template>
  <figure
    class="dial"
    :class="[inBand, { lacking: value === null }]"
    :data-test="`needle-${needle.key}`"
    :data-value="value ?? needle.lack">
    <svg viewBox="0 0 100 80" aria-hidden="true">
      <path class="scale" :d="arc(needle.low, needle.high, R)" />
      <template v-for="b in needle.bands" :key="b.low">
        <template v-if="b.colour === 'amber'">
          <path class="amberline" :d="arc(b.low, b.high, R - 1.6)" />
          <path class="amberline" :d="arc(b.low, b.high, R + 1.6)" />
        </template>
        <path v-else class="redline" :d="arc(b.low, b.high, R)" />
      </template>
      <path v-if="tip" class="hand" :d="`M50 52L${tip[0].toFixed(2)} ${tip[1].toFixed(2)}`" />
      <circle cx="50" cy="52" r="3.4" />
    </svg>
    <figcaption>
      <b class="figure"
        >{{ says }}<small v-if="value !== null">{{ needle.unit }}</small></b
      ><span>{{ needle.name }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.dial { margin: 0; display: flex; flex-direction: column; align-items: center; min-width: 116px; flex: 1; max-width: 190px; } svg { width: 100%; max-height: 116px; }
path { fill: none; } .scale { stroke: var(--line); stroke-width: 2.4; } .amberline { stroke: var(--mend); stroke-width: 1.3; } .redline { stroke: var(--hold); stroke-width: 6; } .hand { stroke: var(--ink); stroke-width: 2.6; stroke-linecap: round; } circle { fill: var(--ink); }
.lacking .scale { stroke-dasharray: 3 3; } .lacking circle { fill: none; stroke: var(--soft); stroke-width: 1.4; }
figcaption { display: flex; flex-direction: column; align-items: center; text-align: center; line-height: 1.1; margin-top: -14px; } figcaption b { font-size: 30px; } figcaption span { font-size: 15px; color: var(--soft); } small { font-size: 15px; font-weight: 420; margin-left: 4px; }
.red b { color: var(--hold); } .amber b { color: var(--mend); } .lacking b { font-size: 18px; font-weight: 560; }
</style>
