<script setup lang="ts">
import { computed } from "vue";

import { useSession } from "../app/session";
import { useWholeMachine } from "../data/queries";
import { uuid7 } from "../parts/device";
import { useOutbox } from "../parts/outbox";
import DefectDrawer from "../walkaround/DefectDrawer.vue";
import { NO_OPENING, type Finding } from "../walkaround/useWalk";
import type { Step, UseRun } from "./useRun";

/** A test that failed: what is wrong is said at its checkpoint and graded at once, then the test counts as failed. */
const props = defineProps<{ step: Step; machine: string; r: UseRun }>();
const emit = defineEmits<{ closed: [] }>();
const { data } = useWholeMachine(props.machine);
const checkpoint = computed(() => data.value?.checkpoints.find((c) => c.id === props.step.checkpoint) ?? null);
async function save(findings: Finding[]) {
  // The finding first: whatever happens in between, it is graded and the test is not passed.
  if (!(await props.r.add({ kind: "answered", checkpoint: props.step.checkpoint, answer: "defect", findings, reason: "", amends: "", together: false }))) return;
  emit("closed");
  await props.r.step(props.step, "failed", { reason: findings.map((f) => f.note).filter(Boolean).join("; ") });
}
const outbox = useOutbox();
const session = useSession();
async function photo(blob: Blob) {
  const id = uuid7();
  const kept = { id, inspection: props.r.id.value, by: session.person!.id, at: new Date().toISOString(), blob, state: 0 as const };
  if (await outbox.postPhoto(kept)) await props.r.add({ kind: "photographed", photo: id, checkpoint: props.step.checkpoint });
}
</script>

<template>
  <DefectDrawer v-if="data && checkpoint" :model-value="true" :walk="data" :checkpoint="checkpoint" :machine="machine" :inspection="r.id.value" :opened="NO_OPENING" :before="[]" :photos="0" @update:model-value="(v: boolean) => v || emit('closed')" @save="save" @photo="photo" />
</template>
