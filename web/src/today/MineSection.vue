<script setup lang="ts">
import { watch } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { useDrawings } from "../yard/useDrawings";
import FindMachine from "./FindMachine.vue";
import MineCard from "./MineCard.vue";

/** The machines that somebody is on, and the way to another one. */
const props = defineProps<{ mine: Schemas["YardMachineOut"][]; machines: Schemas["YardMachineOut"][]; me: string }>();
const { t } = useI18n();
const { drawings, want } = useDrawings();
watch(
  () => props.mine,
  (mine) => void want(mine.map((m) => m.drawing)),
  { immediate: true },
);
</script>

<template>
  <section class="stack" data-test="today-mine">
    <h2>{{ t("today.mine") }}</h2>
    <MineCard v-for="m in mine" :key="m.machine.id" :machine="m" :drawing="drawings.get(m.drawing)" :me="me" />
    <FindMachine :machines="machines" :none="!mine.length" />
  </section>
</template>
