<script setup lang="ts">
import { computed } from "vue";

import BatteryCells from "./controls/BatteryCells.vue";
import BubbleLevel from "./controls/BubbleLevel.vue";
import DialGauge from "./controls/DialGauge.vue";
import LevelPicture from "./controls/LevelPicture.vue";
import NutCircle from "./controls/NutCircle.vue";
import PuddlePicture from "./controls/PuddlePicture.vue";
import RefractoScale from "./controls/RefractoScale.vue";
import SpanPicture from "./controls/SpanPicture.vue";
import TapWatch from "./controls/TapWatch.vue";
import TyreSet from "./controls/TyreSet.vue";
import WearProfile from "./controls/WearProfile.vue";
import type { Listed, Value, Values } from "./useReading";

/** The picture that a reading is taken with, and which inputs it sets. */
const props = defineProps<{ listed: Listed; values: Values; known: Values; ghost: number | null }>();
const emit = defineEmits<{ give: [key: string, value: Value] }>();

const all = computed<Values>(() => ({ ...props.values, ...props.known }));
const number = (key: string, otherwise: number) => (typeof all.value[key] === "number" ? (all.value[key] as number) : otherwise);
const list = (key: string, otherwise: number[]) =>
  Array.isArray(all.value[key]) && (all.value[key] as Value[]).every((v) => typeof v === "number")
    ? (all.value[key] as number[])
    : otherwise;
const input = (key: string) => props.listed.inputs.find((i) => i.key === key)!;
/** The dragged input of a dial: the first that has a start. */
const dialled = computed(() => props.listed.inputs.find((i) => i.start !== null && !i.many) ?? null);
const target = computed(() => ("cold" in all.value ? number("cold", 0) : undefined));
const limit = computed(() => ("limit" in all.value ? number("limit", 0) : undefined));
const ways = computed(
  () =>
    (props.listed.inputs.some((i) => i.key === "seen" && i.low === 0) ? "tank" : props.listed.control === "stick" ? "stick" : "tube") as
      "tank" | "stick" | "tube",
);
const span = computed(() =>
  props.listed.control === "belt"
    ? { key: "deflection", target: (number("span", 420) / 1000) * number("per_metre", 15.625), most: 40 }
    : { key: "sag", target: number("wanted", 60), most: Math.max(100, 2.4 * number("wanted", 60)) },
);
const tyres = computed(() => list("pressures", list("cold", [400, 400, 400, 400])));
const warmth = computed(() =>
  list(
    "tyre_c",
    tyres.value.map(() => 15),
  ),
);
const profile = computed(() =>
  typeof all.value.new === "number" && typeof all.value.limit === "number" && all.value.new !== all.value.limit
    ? { fresh: number("new", 1), limit: number("limit", 0) }
    : null,
);
const timed = computed(() =>
  props.listed.control === "stopwatch" ? props.listed.inputs.find((i) => ["s", "min"].includes(i.unit) && i.needed) : undefined,
);
/** How high a tank with a strapping table is, m: its height is dragged as a share of that. */
const top = computed(() => list("heights", []).at(-1) ?? 0);
const shape = computed(() => (props.listed.control === "belt" ? "belt" : "sag"));
</script>

<template>
  <DialGauge
    v-if="['dial', 'restriction'].includes(listed.control) && dialled"
    :name="dialled.name"
    :unit="dialled.unit"
    :us="dialled.us"
    :low="dialled.low"
    :high="dialled.high"
    :start="dialled.start ?? 0"
    :target="target"
    :limit="limit"
    :model-value="number(dialled.key, dialled.start ?? 0)"
    @update:model-value="(v) => emit('give', dialled!.key, v)" />
  <LevelPicture
    v-else-if="['stick', 'tube', 'glass'].includes(listed.control) && input('seen')"
    :name="input('seen').name"
    :shape="ways"
    :ghost="listed.control === 'glass' ? ghost : null"
    :model-value="number('seen', 0.5)"
    @update:model-value="(v) => emit('give', 'seen', v)" />
  <LevelPicture
    v-else-if="input('height') && top > 0"
    :name="input('height').name"
    shape="tank"
    :model-value="Math.min(1, number('height', top / 2) / top)"
    @update:model-value="(v) => emit('give', 'height', Math.round(v * top * 100) / 100)" />
  <NutCircle
    v-else-if="listed.control === 'nuts'"
    :model-value="list('nuts', Array(10).fill(0))"
    @update:model-value="(v) => emit('give', 'nuts', v)" />
  <TyreSet
    v-else-if="listed.control === 'tyre-set'"
    :us="input('pressures').us"
    :us-c="input('tyre_c').us"
    :cold="
      list(
        'cold',
        tyres.map(() => 400),
      )
    "
    :warmth="warmth"
    :model-value="tyres"
    @update:model-value="
      (v) => {
        emit('give', 'pressures', v);
        emit('give', 'tyre_c', [...warmth]);
      }
    "
    @warm="
      (n, c) =>
        emit(
          'give',
          'tyre_c',
          warmth.map((w, k) => (k === n ? c : w)),
        )
    " />
  <div v-else-if="listed.control === 'profile' && profile" class="pair">
    <WearProfile
      v-for="side in ['left', 'right']"
      :key="side"
      :name="input(side).name"
      :part="String(all.part ?? input('part').default)"
      :fresh="profile.fresh"
      :limit="profile.limit"
      :model-value="number(side, profile.fresh)"
      @update:model-value="(v) => emit('give', side, v)" />
  </div>
  <BatteryCells
    v-else-if="listed.control === 'cells'"
    :model-value="list('cells', Array(6).fill(1.26))"
    @update:model-value="(v) => emit('give', 'cells', v)" />
  <RefractoScale
    v-else-if="listed.control === 'refractometer'"
    :name="input('read_c').name"
    :model-value="number('read_c', -30)"
    @update:model-value="(v) => emit('give', 'read_c', v)" />
  <SpanPicture
    v-else-if="['belt', 'sag'].includes(listed.control)"
    :name="input(span.key).name"
    :shape="shape"
    :target="span.target"
    :most="span.most"
    :model-value="number(span.key, input(span.key).start ?? 0)"
    @update:model-value="(v) => emit('give', span.key, v)" />
  <PuddlePicture
    v-else-if="listed.control === 'puddle'"
    :across="number('across', 20)"
    :along="number('along', 25)"
    @size="
      (a, b) => {
        emit('give', 'across', a);
        emit('give', 'along', b);
      }
    " />
  <BubbleLevel
    v-else-if="listed.control === 'bubble'"
    :pitch="number('pitch', 0)"
    :roll="number('roll', 0)"
    @update:pitch="(v) => emit('give', 'pitch', v)"
    @update:roll="(v) => emit('give', 'roll', v)" />
  <TapWatch
    v-else-if="listed.control === 'drops'"
    counts
    :most="120"
    @done="
      (n, s) => {
        emit('give', 'drops', n);
        emit('give', 'seconds', s);
      }
    " />
  <TapWatch
    v-else-if="timed"
    :counts="false"
    :most="timed.unit === 'min' ? 3600 : 600"
    @done="(_, s) => emit('give', timed!.key, timed!.unit === 'min' ? Math.round(s / 0.6) / 100 : s)" />
</template>

<style scoped>
.pair { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
</style>
