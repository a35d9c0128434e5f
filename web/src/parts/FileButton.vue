<script setup lang="ts">
import { ref } from "vue";

/** A button that takes a file, or a photo; the field behind it is nobody's to see. */
const props = withDefaults(defineProps<{ test: string; accept?: string; photo?: boolean }>(), { accept: "image/*", photo: true });
const emit = defineEmits<{ file: [file: File] }>();
const input = ref<HTMLInputElement | null>(null);

function took(e: Event) {
  const chosen = e.target as HTMLInputElement;
  const file = chosen.files?.[0];
  if (file) emit("file", file);
  chosen.value = "";
}
</script>

<template>
  <button type="button" class="button" @click="input?.click()"><slot /></button>
  <input ref="input" type="file" hidden :accept="props.accept" :capture="props.photo ? 'environment' : undefined" :data-test="test" @change="took" />
</template>
