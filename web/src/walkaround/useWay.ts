import { computed, ref, watch, type Ref } from "vue";

import type { Schemas } from "../api/client";
import { planWay } from "../core/rulebook";
import { plain, store } from "../parts/device";
import { plannedWay, type Step } from "./way";

/** What a person asked of the way; kept on the device with the walk. */
export interface Asked {
  blocked: string[];
  pin_start: string | null;
  direction: "clockwise" | "anticlockwise" | null;
  people: 1 | 2;
  /** Which of two this device walks. */
  mine: 0 | 1;
}
type Leg = Schemas["LegOut"];

/**
 * The way round as it is walked: what has been visited in the order of the visits, where the
 * person stands, and what is left in the order the server proves the shortest from here.
 */
export function useWay(
  machine: string,
  inspection: string,
  walk: Ref<Schemas["WalkOut"] | null>,
  opened: Ref<Schemas["OpenedIn"] | null>,
  visits: Ref<string[]>,
  done: Ref<Set<string>>,
) {
  const asked = ref<Asked>({ blocked: [], pin_start: null, direction: null, people: 1, mine: 0 });
  const legs = ref<Leg[][] | null>(null);
  const walkedLines = ref<Record<string, number[][]>>({});
  const problem = ref<string>("");
  const key = `way/${inspection}`;

  const here = computed(() => visits.value.at(-1) ?? "");
  const visited = computed(() => {
    // Each station where it was visited last, so that the walked line ends where the person stands.
    const out: string[] = [];
    for (const s of visits.value) {
      const i = out.indexOf(s);
      if (i >= 0) out.splice(i, 1);
      out.push(s);
    }
    return out;
  });
  const by = computed(() => new Map((walk.value?.stations ?? []).map((s) => [s.id, s])));
  const ahead = (mine: Leg[]): Step[] =>
    mine
      .filter((l) => by.value.has(l.station))
      .map((l) => ({
        station: by.value.get(l.station)!,
        line: l.line,
        metres: l.metres,
        seconds: l.seconds,
        walked: false,
        blocked: l.blocked,
      }));

  const steps = computed<Step[]>(() => {
    if (!walk.value) return [];
    const planned = new Map(plannedWay(walk.value).map((s) => [s.station.id, s]));
    const kept = visited.value.filter((id) => planned.has(id) && (id === here.value || done.value.has(id)));
    const behind = kept.map((id) => ({ ...planned.get(id)!, line: walkedLines.value[id] ?? planned.get(id)!.line, walked: true }));
    const all = legs.value ? legs.value.flatMap(ahead) : [...planned.values()];
    const seen = new Set(kept);
    const rest = all.filter((s) => !seen.has(s.station.id) && seen.add(s.station.id));
    // What the way does not know of (left unfinished while there was no answer) comes before the cab.
    const missed = [...planned.values()].filter((s) => !seen.has(s.station.id));
    const cab = rest.findIndex((s) => s.station.level === "cab");
    rest.splice(cab < 0 ? rest.length : cab, 0, ...missed);
    return [...behind, ...rest];
  });
  const other = computed(() => {
    if (asked.value.people === 1 || !legs.value) return new Set<string>();
    const mine = new Set(legs.value[asked.value.mine]?.map((l) => l.station));
    return new Set((legs.value[1 - asked.value.mine] ?? []).map((l) => l.station).filter((s) => !mine.has(s) && s !== here.value));
  });
  /** What comes next: what is left of one's own, the blocked last. */
  const next = computed(() => {
    const rest = steps.value.filter((s) => !s.walked && s.station.id !== here.value && !other.value.has(s.station.id));
    return rest.find((s) => !done.value.has(s.station.id)) ?? null;
  });

  async function keep() {
    await store.kept.put({ key, value: plain({ asked: asked.value, legs: legs.value, lines: walkedLines.value }) });
  }
  async function recall() {
    const kept = await store.keptAs<{ asked: Asked; legs: Leg[][] | null; lines: Record<string, number[][]> }>(key);
    if (!kept) return;
    asked.value = kept.asked;
    legs.value = kept.legs;
    walkedLines.value = kept.lines;
  }

  const wish = (from: string, done: string[]) => ({
    purpose: opened.value!.purpose ?? "pre-start",
    conditions: opened.value!.conditions,
    open_at: (walk.value!.carried ?? []).map((c) => c.checkpoint),
    done,
    here: from,
    blocked: asked.value.blocked.filter((b) => !done.includes(b) && b !== from),
    people: asked.value.people,
  });

  /** Ask for the shortest way on from `from`; without an answer the way known so far stays. */
  async function replan(from: string): Promise<boolean> {
    if (!walk.value || !opened.value || !from) return false;
    const finished = [...done.value].filter((s) => s !== from);
    const body = {
      ...wish(from, finished),
      direction: asked.value.direction,
      pin_start: asked.value.blocked.includes(asked.value.pin_start ?? "") ? null : asked.value.pin_start,
    };
    const reply = await planWay({ machine }, body);
    problem.value = reply.ok || reply.away ? "" : (reply.problem?.detail ?? "");
    if (reply.ok) {
      legs.value = reply.data.people.map((p) => p.legs.filter((l) => l.station !== from));
      await keep();
    }
    return reply.ok;
  }

  /** Note the line from one station to another, as it will be walked. */
  async function walkTo(from: string, to: string) {
    const known = steps.value.find((s) => s.station.id === to);
    if (next.value?.station.id === to || !walk.value || !opened.value) {
      if (known) walkedLines.value = { ...walkedLines.value, [to]: known.line };
    } else {
      const others = walk.value.stations.map((s) => s.id).filter((s) => s !== to && s !== from);
      const reply = await planWay({ machine }, { ...wish(from, others), blocked: [], people: 1 });
      const line = reply.ok ? reply.data.people[0]?.legs.find((l) => l.station === to)?.line : null;
      walkedLines.value = { ...walkedLines.value, [to]: line ?? [[...by.value.get(from)!.at], [...by.value.get(to)!.at]] };
    }
    await keep();
  }

  /** The rules that going to `to` now would break: what should have come first, and why. */
  const broken = (to: string) => {
    const seen = new Set<string>();
    // What is left where one stands was seen to be left; but nobody climbs into the cab over it.
    const left = by.value.get(to)?.level === "cab" ? "" : here.value;
    return (walk.value?.rules ?? []).filter(
      (r) =>
        r.then === to && !done.value.has(r.first) && r.first !== left && by.value.has(r.first) && !seen.has(r.says) && seen.add(r.says),
    );
  };

  watch(walk, (now, before) => {
    if (now && !before) void recall();
  });
  return { asked, steps, next, other, problem, replan, walkTo, broken, keep, recall, here };
}
