import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import type { useWalk } from "./useWalk";
import { useWay, type Asked } from "./useWay";

const LEVELS = ["ground", "under", "deck", "cab"] as const;

/** Where one stands in a walk, what is left there, and the way on. */
export function useLap(machine: string, inspection: string, w: ReturnType<typeof useWalk>) {
  const router = useRouter();
  const { walk, answers } = w;
  /** A station that the rules of order say is not to be visited yet. */
  const early = ref<{ id: string; says: string[] } | null>(null);

  const stations = computed(() => walk.value?.stations ?? []);
  const leftAt = (id: string) =>
    (walk.value?.checkpoints ?? []).filter((c) => c.station === id && c.mandatory && !answers.value.has(c.id)).length;
  const untouched = (id: string) => (walk.value?.checkpoints ?? []).filter((c) => c.station === id && !answers.value.has(c.id));
  /** A station with nothing mandatory is done once it was visited. */
  const done = computed(
    () =>
      new Set(
        stations.value
          .filter((s) => leftAt(s.id) === 0 && (untouched(s.id).length === 0 || w.visits.value.includes(s.id)))
          .map((s) => s.id),
      ),
  );
  const way = useWay(machine, inspection, walk, w.opened, w.visits, done);
  const { here, steps, next, asked } = way;
  const at = computed(() => steps.value.findIndex((s) => s.station.id === here.value));
  const station = computed(() => steps.value[at.value]?.station ?? null);
  const points = computed(() => (walk.value?.checkpoints ?? []).filter((c) => c.station === here.value));
  const levels = computed(() =>
    LEVELS.map((level) => {
      const ids = steps.value.map((s) => s.station).filter((s) => s.level === level);
      return { level, left: ids.reduce((n, s) => n + leftAt(s.id), 0), first: ids.find((s) => leftAt(s.id) > 0) ?? ids[0] };
    }).filter((l) => l.first),
  );
  const blockedLeft = computed(() =>
    steps.value.filter((s) => asked.value.blocked.includes(s.station.id) && untouched(s.station.id).length > 0),
  );

  async function arrive(id: string) {
    const from = here.value;
    const asPlanned = next.value?.station.id === id;
    // The line and the tap first: both are known without the network.
    const line = from ? way.walkTo(from, id) : null;
    await w.add({ kind: "arrived", station: id });
    await line;
    // Off the plan, or with something left behind: the way on is asked for anew.
    if (from && (!asPlanned || !done.value.has(from))) await way.replan(id);
  }
  async function go(id: string) {
    if (id === here.value) return;
    const broken = way.broken(id);
    if (broken.length && !done.value.has(id)) early.value = { id, says: broken.map((r) => r.says) };
    else await arrive(id);
  }
  async function goAnyway() {
    const id = early.value!.id;
    early.value = null;
    await arrive(id);
  }
  async function onward() {
    if (next.value) await go(next.value.station.id);
    else await router.push({ name: "verdict", params: { machine, inspection } });
  }
  async function wish(change: Partial<Asked>) {
    Object.assign(asked.value, change);
    await way.keep();
    await way.replan(here.value);
  }
  /** Not to be reached now: it is left to the end, and the way on is planned anew. */
  async function block(id: string) {
    const now = asked.value.blocked;
    await wish({ blocked: now.includes(id) ? now.filter((b) => b !== id) : [...now, id] });
  }
  async function blockHere() {
    const id = here.value;
    const blocking = !asked.value.blocked.includes(id);
    await block(id);
    if (blocking && next.value && next.value.station.id !== id) await arrive(next.value.station.id);
  }

  return {
    ...way,
    way,
    early,
    stations,
    leftAt,
    untouched,
    done,
    at,
    station,
    points,
    levels,
    blockedLeft,
    arrive,
    go,
    goAnyway,
    onward,
    wish,
    block,
    blockHere,
  };
}
