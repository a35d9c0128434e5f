<script setup lang="ts">
import { computed, reactive } from "vue";
import { useI18n } from "vue-i18n";

import type { Schemas } from "../api/client";
import { isOpen } from "../parts/device";
import { useOutbox } from "../parts/outbox";

/** What the server turned down for good, with its words: sent once more or let go, as a person decides. */
const props = defineProps<{ walk: Schemas["WalkOut"] }>();
const { t } = useI18n();
const outbox = useOutbox();

/** What it was, in words: the checkpoint or what else. */
function what(r: (typeof outbox.refused)[number]): string {
  if ("blob" in r) return t("walk.photo");
  if (!isOpen(r)) return t("walk.othersEntry");
  const id = "checkpoint" in r.what ? r.what.checkpoint : "";
  return props.walk.checkpoints.find((c) => c.id === id)?.name ?? t(`entry.${r.what.kind}`);
}
/** Whoever wrote it signed out: they alone let go of it. Who walks now may put it out of sight. */
const hidden = reactive(new Set<string>());
const shown = computed(() => outbox.refused.filter((r) => !hidden.has(r.id)));
const encrypted = (r: (typeof outbox.refused)[number]) => ("blob" in r ? r.encrypted : !isOpen(r));
</script>

<template>
  <div v-if="shown.length" class="refused card" role="alert">
    <p v-for="r in shown" :key="r.id">
      {{ t("walk.refused", { what: what(r), says: r.says }) }} <template v-if="encrypted(r)">{{ t("walk.othersDecide") }}</template>
      <button type="button" class="button" @click="outbox.tryAgain(r.id)">{{ t("walk.tryAgain") }}</button>
      <button v-if="encrypted(r)" type="button" class="button" @click="hidden.add(r.id)">{{ t("walk.hide") }}</button>
      <button v-else type="button" class="button" @click="outbox.letGo(r.id)">{{ t("walk.drop") }}</button>
    </p>
  </div>
</template>

<style scoped>
.refused { position: fixed; left: 24px; bottom: 92px; z-index: 5; border: 3px solid var(--hold); max-width: 640px; }
/* Two that touch are one to a glove. */
.refused .button { margin: 8px 12px 0 0; }
@media (max-width: 1000px) { .refused { left: 8px; right: 8px; } }
</style>
