<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

/** Digits for gloves: a PIN is tapped, or typed on whatever surrounds the pad. */
defineProps<{ disabled?: boolean; busy?: boolean; enter: string }>();
const pin = defineModel<string>({ required: true });
const emit = defineEmits<{ enter: [] }>();
const { t } = useI18n();
const dots = computed(() => "●".repeat(pin.value.length));

function press(digit: string) {
  if (pin.value.length < 8) pin.value += digit;
}
function key(e: KeyboardEvent) {
  if (/^\d$/.test(e.key)) press(e.key);
  else if (e.key === "Backspace") pin.value = pin.value.slice(0, -1);
  else if (e.key === "Enter" && !(e.target as HTMLElement).closest("button")) emit("enter");
}
defineExpose({ key });
</script>

<template>
  <div>
    <p class="dots" aria-live="polite" :aria-label="t('signIn.digits', { n: pin.length })">{{ dots || "–" }}</p>
    <div class="keys">
      <button
        v-for="d in ['1', '2', '3', '4', '5', '6', '7', '8', '9']"
        :key="d"
        type="button"
        class="button"
        :disabled="disabled"
        @click="press(d)">
        {{ d }}
      </button>
      <button type="button" class="button" :disabled="!pin" :aria-label="t('signIn.back')" @click="pin = pin.slice(0, -1)">←</button>
      <button v-for="d in ['0']" :key="d" type="button" class="button" :disabled="disabled" @click="press(d)">{{ d }}</button>
      <button type="button" class="button primary" :disabled="pin.length < 4 || busy" data-test="enter" @click="emit('enter')">
        {{ enter }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.dots { font-size: 32px; min-height: 48px; letter-spacing: 6px; }
.keys { display: grid; grid-template-columns: repeat(3, 1fr); gap: 12px; }
.keys .button { min-height: 68px; font-size: 24px; padding: 4px; }
.keys .primary { font-size: 19px; }
</style>
