<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";

import NeedleDial from "./NeedleDial.vue";
import type { Needle, UsePanel } from "./usePanel";

/** What the machine tells of itself: the needles that matter now, what is red or amber, and when it tells nothing. */
const props = defineProps<{ p: UsePanel; keys: string[] }>();
const { t } = useI18n();
const needles = computed(() => props.keys.map((k) => props.p.needle(k)).filter((n): n is Needle => n !== null));
const alerts = computed(() => [...props.p.alerts.value].sort((a, b) => Number(b.colour === "red") - Number(a.colour === "red")));
</script>

<template>
  <section
    v-if="p.panel.value && (needles.length || alerts.length || p.panel.value.doubt || !p.live.value)"
    class="card tells"
    :aria-label="t('panel.title')"
    data-test="machine-tells"
    :data-live="p.live.value">
    <p v-if="p.panel.value.simulated" class="quiet" data-test="simulated">{{ t("panel.simulated") }}</p>
    <p v-if="!p.live.value" class="silent" role="status" data-test="silent">{{ t("panel.silent") }}</p>
    <p v-if="p.panel.value.doubt" class="silent" role="alert" data-test="doubt">{{ p.panel.value.doubt }}</p>
    <p v-if="p.panel.value.identities.length" class="quiet" data-test="bus-name">
      {{ t("panel.called", { name: p.panel.value.identities.join(", ") }) }}
    </p>
    <ul v-if="alerts.length" class="alerts" role="alert" data-test="alerts">
      <li v-for="a in alerts" :key="a.id" :class="a.colour">
        <b>{{ t(`panel.colour.${a.colour}`) }}</b> {{ a.says }}
      </li>
    </ul>
    <div v-if="needles.length" class="needles" :class="{ many: needles.length > 4 }">
      <NeedleDial v-for="n in needles" :key="n.key" :needle="n" :still="p.panel.value.engine === 'stopped'" />
    </div>
  </section>
</template>

<style scoped>
.tells { display: flex; flex-direction: column; gap: 10px; padding: 10px 12px; } .needles { display: flex; gap: 8px; justify-content: space-around; flex-wrap: wrap; }
.silent { border-left: 5px solid var(--here); padding-left: 12px; } .alerts { list-style: none; margin: 0; padding: 0; display: flex; flex-direction: column; gap: 6px; }
.alerts li { padding: 8px 12px; border-radius: 10px; border: 3px solid var(--mend); } .alerts .red { background: var(--hold); border-color: var(--hold); color: var(--on-grade); }
@media (max-width: 800px) { .many { gap: 4px; } .many :deep(.dial) { min-width: 78px; max-width: 84px; } .many :deep(b) { font-size: 20px; } .many :deep(span) { font-size: 14px; } .many :deep(figcaption) { margin-top: -8px; } }
</style>
