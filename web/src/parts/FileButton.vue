<script setup lang="ts">
import { defineAsyncComponent, ref } from "vue";

/** A button that takes a file, or a photo, which a finger may mark before it is kept. */
const props = withDefaults(defineProps<{ test: string; accept?: string; photo?: boolean; mark?: boolean }>(), {
  accept: "image/*",
  photo: true,
  mark: false,
});
const emit = defineEmits<{ file: [file: Blob] }>();
const PhotoMark = defineAsyncComponent(() => import("./PhotoMark.vue"));
const input = ref<HTMLInputElement | null>(null);
const taken = ref<File | null>(null);

function took(e: Event) {
  const chosen = e.target as HTMLInputElement;
  const file = chosen.files?.[0];
  if (file && props.mark) taken.value = file;
  else if (file) emit("file", file);
  chosen.value = "";
}
function keep(photo: Blob) {
  taken.value = null;
  emit("file", photo);
}
</script>

<template>
  <button type="button" class="button" @click="input?.click()"><slot /></button>
  <input
    ref="input"
    type="file"
    hidden
    :accept="props.accept"
    :capture="props.photo ? 'environment' : undefined"
    :data-test="test"
    @change="took" />
  <PhotoMark v-if="taken" :file="taken" @keep="keep" @drop="taken = null" />
</template>
