<script setup lang="ts">
import { useNow } from "@vueuse/core";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";

import type { useLap } from "./useLap";
import type { Checkpoint, useWalk } from "./useWalk";

/** The plain checkpoints that are left here, answered together once there was time to look at them. */
const props = defineProps<{ lap: ReturnType<typeof useLap>; w: ReturnType<typeof useWalk> }>();
const emit = defineEmits<{ rest: [rest: Checkpoint[]] }>();
const { t } = useI18n();
const now = useNow({ interval: 1000 });
const since = ref(Date.now());

/** Never what a life depends on, what is measured, what is open, or what this walk asks to be shown. */
const rest = computed(() => {
  const walk = props.w.walk.value;
  if (!walk) return [];
  const open = new Set(walk.carried.map((d) => d.checkpoint));
  return props.lap.untouched(props.lap.here.value).filter((c) => !c.life && !c.reading && !open.has(c.id) && !walk.show_me.includes(c.id));
});
const wait = computed(() => Math.ceil(rest.value.reduce((s, c) => s + c.seconds, 0) - (now.value.getTime() - since.value) / 1000));
</script>

<template>
  <button v-if="rest.length > 1" type="button" class="button rest" :disabled="wait > 0" data-test="rest" @click="emit('rest', rest)">
    {{ wait > 0 ? t("walk.restWait", { s: wait }) : t("walk.rest", { n: rest.length }) }}
  </button>
</template>

<style scoped>
.rest { align-self: stretch; border-color: var(--sound); color: var(--sound); } .rest:disabled { opacity: 1; color: var(--soft); border-color: var(--line); }
</style>
