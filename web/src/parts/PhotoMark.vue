<script setup lang="ts">
import { ElDialog } from "element-plus";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";

/** A photo before it is kept: a finger draws a circle or an arrow where to look. Marks become part of the picture. */
const props = defineProps<{ file: File | null }>();
const emit = defineEmits<{ keep: [photo: Blob]; drop: [] }>();
const { t } = useI18n();
type Shape = "circle" | "arrow";
type Mark = { shape: Shape; from: [number, number]; to: [number, number] };
const LONGEST = 1600,
  QUALITY = 0.9,
  SMALLEST = 0.02;

const url = ref("");
const size = ref<[number, number]>([4, 3]);
const picture = ref<HTMLImageElement | null>(null);
const frame = ref<SVGSVGElement | null>(null);
const shape = ref<Shape>("circle");
const marks = ref<Mark[]>([]);
const drawing = ref<Mark | null>(null);
const shown = computed(() => (drawing.value ? [...marks.value, drawing.value] : marks.value));
const width = computed(() => Math.max(...size.value) / 110);

watch(
  () => props.file,
  (file) => {
    if (url.value) URL.revokeObjectURL(url.value);
    url.value = file ? URL.createObjectURL(file) : "";
    marks.value = [];
    drawing.value = null;
  },
  { immediate: true },
);

function loaded() {
  const it = picture.value!;
  const scale = Math.min(1, LONGEST / Math.max(it.naturalWidth, it.naturalHeight));
  size.value = [Math.round(it.naturalWidth * scale), Math.round(it.naturalHeight * scale)];
}
/** What this browser cannot show is kept as it is: the server says if it is no picture. */
const unreadable = () => props.file && emit("keep", props.file);
function at(e: PointerEvent): [number, number] {
  const box = frame.value!.getBoundingClientRect();
  return [((e.clientX - box.left) / box.width) * size.value[0], ((e.clientY - box.top) / box.height) * size.value[1]];
}
function down(e: PointerEvent) {
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
  drawing.value = { shape: shape.value, from: at(e), to: at(e) };
}
const move = (e: PointerEvent) => drawing.value && (drawing.value = { ...drawing.value, to: at(e) });
const span = (m: Mark) => Math.hypot(m.to[0] - m.from[0], m.to[1] - m.from[1]);
/** A tap, or a twitch of the glove, marks the place with a circle of its own size. */
function up() {
  const m = drawing.value;
  drawing.value = null;
  if (!m) return;
  const least = Math.max(...size.value) * SMALLEST;
  marks.value.push(
    span(m) < least
      ? { shape: "circle", from: [m.from[0] - least * 3, m.from[1] - least * 3], to: [m.from[0] + least * 3, m.from[1] + least * 3] }
      : m,
  );
}
/** The mark's outline, as SVG and canvas both take it. */
function path(m: Mark): string {
  const [[x1, y1], [x2, y2]] = [m.from, m.to];
  if (m.shape === "arrow") {
    const turn = Math.atan2(y2 - y1, x2 - x1),
      head = Math.min(span(m) * 0.4, width.value * 6);
    const barb = (by: number) => `M${x2} ${y2}L${x2 - head * Math.cos(turn + by)} ${y2 - head * Math.sin(turn + by)}`;
    return `M${x1} ${y1}L${x2} ${y2}${barb(0.5)}${barb(-0.5)}`;
  }
  const rx = Math.abs(x2 - x1) / 2,
    ry = Math.abs(y2 - y1) / 2,
    left = Math.min(x1, x2),
    y = (y1 + y2) / 2;
  return `M${left} ${y}a${rx} ${ry} 0 1 0 ${rx * 2} 0a${rx} ${ry} 0 1 0 ${-rx * 2} 0Z`;
}
function keep() {
  if (!marks.value.length) return emit("keep", props.file!);
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = size.value;
  const pen = canvas.getContext("2d")!;
  pen.drawImage(picture.value!, 0, 0, canvas.width, canvas.height);
  pen.lineCap = pen.lineJoin = "round";
  for (const [ink, wide] of [
    ["#ffffff", 2],
    ["#d6002a", 1],
  ] as const) {
    pen.strokeStyle = ink;
    pen.lineWidth = width.value * wide;
    for (const m of marks.value) pen.stroke(new Path2D(path(m)));
  }
  canvas.toBlob((made) => emit("keep", made ?? props.file!), "image/jpeg", QUALITY);
}
</script>

<template>
  <ElDialog
    :model-value="file !== null"
    :title="t('photo.title')"
    width="min(860px, 96vw)"
    top="3vh"
    append-to-body
    :show-close="false"
    :close-on-click-modal="false"
    :close-on-press-escape="false">
    <div class="stack">
      <p>{{ t("photo.how") }}</p>
      <div class="frame">
        <img v-if="url" ref="picture" :src="url" alt="" @load="loaded" @error="unreadable" />
        <svg
          ref="frame"
          :viewBox="`0 0 ${size[0]} ${size[1]}`"
          role="img"
          :aria-label="t('photo.marks', marks.length)"
          data-test="photo-marks"
          @pointerdown="down"
          @pointermove="move"
          @pointerup="up"
          @pointercancel="drawing = null">
          <g v-for="(m, n) in shown" :key="n" class="mark">
            <path :d="path(m)" class="rim" :stroke-width="width * 2" />
            <path :d="path(m)" :stroke-width="width" />
          </g>
        </svg>
      </div>
      <div class="row wrap" role="group" :aria-label="t('photo.shape')">
        <button
          v-for="s in ['circle', 'arrow'] as const"
          :key="s"
          type="button"
          class="button"
          :class="{ chosen: shape === s }"
          :aria-pressed="shape === s"
          :data-test="`photo-${s}`"
          @click="shape = s">
          {{ t(`photo.${s}`) }}
        </button>
        <button type="button" class="button" :disabled="!marks.length" data-test="photo-undo" @click="marks.pop()">
          {{ t("photo.undo") }}
        </button>
      </div>
    </div>
    <template #footer>
      <div class="row wrap spread">
        <button type="button" class="button" data-test="photo-drop" @click="emit('drop')">{{ t("photo.drop") }}</button>
        <button type="button" class="button primary" autofocus data-test="photo-keep" @click="keep">{{ t("photo.keep") }}</button>
      </div>
    </template>
  </ElDialog>
</template>

<style scoped>
.frame { position: relative; width: fit-content; margin: 0 auto; }
.frame img { display: block; max-width: 100%; max-height: 56vh; border-radius: 8px; }
.frame svg { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: crosshair; }
.mark path { fill: none; stroke: #d6002a; stroke-linecap: round; stroke-linejoin: round; } .mark .rim { stroke: #fff; }
</style>
