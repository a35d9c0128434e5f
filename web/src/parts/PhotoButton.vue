<script setup lang="ts">
import { ref } from "vue";

/** A button that takes a photo; the file that it chooses is nobody's to see. */
defineProps<{ test: string; plain?: boolean }>();
const emit = defineEmits<{ photo: [blob: Blob] }>();
const input = ref<HTMLInputElement | null>(null);

function took(e: Event) {
  const chosen = e.target as HTMLInputElement;
  const file = chosen.files?.[0];
  if (file) emit("photo", file);
  chosen.value = "";
}
</script>

<template>
  <button type="button" class="button" @click="input?.click()"><slot /></button>
  <input ref="input" type="file" accept="image/*" capture="environment" hidden :data-test="test" @change="took" />
</template>
