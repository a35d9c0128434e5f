<script setup lang="ts">
import { computed } from "vue";

import { useSession } from "../app/session";
import { useWholeMachine } from "../data/queries";
import { uuid7 } from "../parts/device";
import { useOutbox } from "../parts/outbox";
import DefectDrawer from "../walkaround/DefectDrawer.vue";
import { NO_OPENING, type Finding } from "../walkaround/useWalk";
import type { UseRun } from "./useRun";

/** What is wrong at a checkpoint, said in the middle of a run; a photo goes to the run. */
const props = defineProps<{ checkpoint: string; machine: string; r: UseRun }>();
const emit = defineEmits<{ closed: []; found: [findings: Finding[]] }>();
const { data } = useWholeMachine(props.machine);
const place = computed(() => data.value?.checkpoints.find((c) => c.id === props.checkpoint) ?? null);
const outbox = useOutbox();
const session = useSession();
async function photo(blob: Blob) {
  const id = uuid7();
  const kept = { id, inspection: props.r.id.value, by: session.person!.id, at: new Date().toISOString(), blob, state: 0 as const };
  if (await outbox.postPhoto(kept)) await props.r.add({ kind: "photographed", photo: id, checkpoint: props.checkpoint });
}
</script>

<template>
  <DefectDrawer
    v-if="data && place"
    :model-value="true"
    :walk="data"
    :checkpoint="place"
    :machine="machine"
    :inspection="r.id.value"
    :opened="NO_OPENING"
    :before="[]"
    :photos="0"
    @update:model-value="(v: boolean) => v || emit('closed')"
    @save="(f: Finding[]) => emit('found', f)"
    @photo="photo" />
</template>
