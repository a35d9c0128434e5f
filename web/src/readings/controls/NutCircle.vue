<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

/** The nuts of a wheel: a tap turns a mark, loosens, takes out, and puts it right again. */
const model = defineModel<number[]>({ required: true });
const { t } = useI18n();
const LEAST = 4,
  MOST = 40;
const STATES = ["tight", "moved", "loose", "missing"] as const;

const nuts = computed(() =>
  model.value.map((state, n) => {
    const a = (n / model.value.length) * 2 * Math.PI - Math.PI / 2;
    return { n, state, x: 150 + 112 * Math.cos(a), y: 150 + 112 * Math.sin(a), turn: (a * 180) / Math.PI };
  }),
);
const size = computed(() => Math.min(21, 340 / model.value.length));
const hex = computed(() =>
  Array.from(
    { length: 6 },
    (_, k) => `${(size.value * Math.cos((k * Math.PI) / 3)).toFixed(1)},${(size.value * Math.sin((k * Math.PI) / 3)).toFixed(1)}`,
  ).join(" "),
);
function turn(n: number) {
  model.value = model.value.map((s, k) => (k === n ? (s + 1) % 4 : s));
}
function many(by: number) {
  const count = Math.min(MOST, Math.max(LEAST, model.value.length + by));
  model.value = Array.from({ length: count }, (_, n) => model.value[n] ?? 0);
}
</script>

<template>
  <div class="wheel">
    <svg viewBox="0 0 300 300" role="group" :aria-label="t('reading.nuts')" data-test="nuts">
      <circle cx="150" cy="150" r="144" class="rim" />
      <circle cx="150" cy="150" r="78" class="hub" />
      <circle cx="150" cy="150" r="34" class="hub" />
      <g
        v-for="nut in nuts"
        :key="nut.n"
        :transform="`translate(${nut.x} ${nut.y}) rotate(${nut.turn})`"
        class="nut"
        :class="STATES[nut.state]"
        role="button"
        tabindex="0"
        :aria-label="t('reading.nut', { n: nut.n + 1, state: t(`reading.nutState.${STATES[nut.state]!}`) })"
        :data-test="`nut-${nut.n}`"
        @click="turn(nut.n)"
        @keydown.enter.prevent="turn(nut.n)"
        @keydown.space.prevent="turn(nut.n)">
        <circle r="27" class="touch" />
        <template v-if="nut.state < 3">
          <polygon :points="hex" :transform="nut.state === 1 ? 'rotate(22)' : ''" />
          <circle :r="size * 0.45" class="stud" />
          <path :d="`M${size * 0.5} 0H${size + 2}`" class="own" :transform="nut.state === 1 ? 'rotate(24)' : ''" />
          <path :d="`M${size + 4} 0H${size + 13}`" class="mark" />
        </template>
        <template v-else>
          <circle :r="size * 0.7" class="hole" />
          <path
            :d="`M${-size * 0.5} ${-size * 0.5}L${size * 0.5} ${size * 0.5}M${size * 0.5} ${-size * 0.5}L${-size * 0.5} ${size * 0.5}`"
            class="gone" />
        </template>
      </g>
    </svg>
    <div class="row wrap">
      <button type="button" class="button" :aria-label="t('reading.fewer')" @click="many(-2)">−</button>
      <span>{{ t("reading.nutCount", { n: model.length }) }}</span>
      <button type="button" class="button" :aria-label="t('reading.more')" @click="many(2)">+</button>
    </div>
    <p class="quiet">{{ t("reading.nutHow") }}</p>
  </div>
</template>

<style scoped>
.wheel { display: grid; gap: 10px; justify-items: start; }
svg { width: 100%; max-width: 340px; }
.rim { fill: var(--track); stroke: var(--ink); stroke-width: 2; } .hub { fill: var(--steel); stroke: var(--ink); stroke-width: 1.6; }
.nut { cursor: pointer; } .touch { fill: transparent; }
.nut:focus-visible { outline: none; } .nut:focus-visible .touch { stroke: var(--deep); stroke-width: 3; }
polygon { fill: var(--card); stroke: var(--ink); stroke-width: 2; } .stud { fill: none; stroke: var(--ink); stroke-width: 1.2; }
.mark, .own { stroke: var(--here); stroke-width: 4; }
.moved polygon { stroke: var(--mend); stroke-width: 3; } .loose polygon { stroke: var(--hold); stroke-width: 3; stroke-dasharray: 5 4; fill: none; }
.hole { fill: none; stroke: var(--hold); stroke-width: 2.5; } .gone { stroke: var(--hold); stroke-width: 3.5; }
.button { min-width: var(--target); }
</style>
