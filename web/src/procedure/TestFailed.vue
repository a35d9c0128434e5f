<script setup lang="ts">
import type { Finding } from "../walkaround/useWalk";
import FoundAt from "./FoundAt.vue";
import type { Step, UseRun } from "./useRun";

/** A test that failed: what is wrong is said at its checkpoint and graded at once, then the test counts as failed. */
const props = defineProps<{ step: Step; machine: string; r: UseRun }>();
const emit = defineEmits<{ closed: [] }>();
async function save(findings: Finding[]) {
  // The finding first: whatever happens in between, it is graded and the test is not passed.
  if (
    !(await props.r.add({
      kind: "answered",
      checkpoint: props.step.checkpoint,
      answer: "defect",
      findings,
      reason: "",
      amends: "",
      together: false,
    }))
  )
    return;
  emit("closed");
  await props.r.step(props.step, "failed", {
    reason: findings
      .map((f) => f.note)
      .filter(Boolean)
      .join("; "),
  });
}
</script>

<template>
  <FoundAt :checkpoint="step.checkpoint" :machine="machine" :r="r" @closed="emit('closed')" @found="save" />
</template>
