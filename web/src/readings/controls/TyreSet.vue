<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../../api/client";
import { told } from "../units";
import DialGauge from "./DialGauge.vue";

/** All tyres of a machine from above, front to the right: tap one, set it on the dial. */
const props = defineProps<{
  us: Schemas["OtherUnitOut"] | null;
  cold: number[];
  warmth: number[];
  usC: Schemas["OtherUnitOut"] | null;
  duals?: boolean;
}>();
const model = defineModel<number[]>({ required: true });
const emit = defineEmits<{ warm: [tyre: number, celsius: number] }>();
const { t } = useI18n();
const chosen = ref(0);

const axles = computed(() => model.value.length / 2);
/** Left before right; the left side is up, as on every plan here. */
const places = computed(() =>
  model.value.map((pressure, n) => {
    const axle = Math.floor(n / 2);
    const x = 320 - axle * (axles.value > 2 ? (axle === 0 ? 110 : 98) : 190) - (axles.value > 2 && axle > 0 ? 24 : 0);
    return { n, pressure, x, y: n % 2 ? 150 : 26, share: pressure / (props.cold[n] ?? pressure) };
  }),
);
const set = (value: number) => (model.value = model.value.map((p, n) => (n === chosen.value ? value : p)));
const warm = (by: number) => emit("warm", chosen.value, (props.warmth[chosen.value] ?? 15) + by);
</script>

<template>
  <div class="set">
    <svg viewBox="0 0 400 210" role="group" :aria-label="t('reading.tyres')" data-test="tyres">
      <path d="M40 105H372" class="frame" />
      <path d="M372 96l16 9-16 9Z" class="front" />
      <path v-for="p in places.filter((q) => q.n % 2 === 0)" :key="`a${p.n}`" :d="`M${p.x} 54V156`" class="frame" />
      <g
        v-for="p in places"
        :key="p.n"
        class="tyre"
        :class="{ on: chosen === p.n, low: p.share < 0.95, flat: p.share <= 0.8 }"
        role="button"
        tabindex="0"
        :aria-pressed="chosen === p.n"
        :data-test="`tyre-${p.n}`"
        @click="chosen = p.n"
        @keydown.enter.prevent="chosen = p.n"
        @keydown.space.prevent="chosen = p.n">
        <rect :x="p.x - 44" :y="p.y" width="88" height="40" rx="10" />
        <text :x="p.x" :y="p.y + (p.n % 2 ? 56 : -6)" class="small">{{ p.n + 1 }} · {{ told(warmth[p.n] ?? 15, "°C", usC) }}</text>
        <text :x="p.x" :y="p.y + 26">{{ told(p.pressure, "kPa", us).replace(/ .*/, "") }}</text>
      </g>
    </svg>
    <div class="one">
      <p>
        <b>{{ t("reading.tyreNo", { n: chosen + 1 }) }}</b>
      </p>
      <DialGauge
        :key="chosen"
        :name="t('reading.tyreNo', { n: chosen + 1 })"
        unit="kPa"
        :us="us"
        :low="0"
        :high="1500"
        :start="cold[chosen] ?? 400"
        :target="cold[chosen]"
        :model-value="model[chosen] ?? 0"
        @update:model-value="set" />
      <div class="row wrap">
        <button type="button" class="button" :aria-label="t('reading.cooler')" @click="warm(-5)">−</button
        ><span>{{ told(warmth[chosen] ?? 15, "°C", usC) }}</span
        ><button type="button" class="button" :aria-label="t('reading.warmer')" @click="warm(5)">+</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.set { display: grid; gap: 12px; }
svg { width: 100%; max-width: 460px; }
.frame { stroke: var(--ink); stroke-width: 6; fill: none; opacity: 0.35; } .front { fill: var(--ink); opacity: 0.5; }
.tyre { cursor: pointer; } .tyre rect { fill: var(--track); stroke: var(--ink); stroke-width: 2; }
.tyre.low rect { stroke: var(--mend); stroke-width: 4; } .tyre.flat rect { stroke: var(--hold); stroke-width: 5; stroke-dasharray: 9 5; }
.tyre.on rect { fill: var(--here-soft); } .tyre:focus-visible { outline: none; } .tyre:focus-visible rect { stroke: var(--deep); stroke-width: 5; }
text { text-anchor: middle; font-size: 20px; font-weight: 600; fill: var(--ink); } .small { font-size: 15px; font-weight: 450; fill: var(--soft); }
.one { display: grid; gap: 6px; justify-items: start; } .button { min-width: var(--target); }
</style>
