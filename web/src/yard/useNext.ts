import { computed, type Ref } from "vue";

import { useSession } from "../app/session";
import { useYard } from "../data/queries";
import { actionOf, placeOf, startOf } from "./action";

/** How a machine stands, and the one thing to do next: what holds it is put right; else it is started where this person
 * may, the walk goes on, or one begins. */
export function useNext(machine: Ref<string>) {
  const session = useSession();
  const { data: told, error } = useYard();
  // What was told before is not taken for how it stands while the server gives no answer.
  const stale = computed(() => Boolean(told.value?.stale || error.value));
  const now = computed(() => told.value?.yard.machines.find((m) => m.machine.id === machine.value) ?? null);
  const next = computed(() => {
    if (now.value?.go === "held" && now.value.open_findings) return "open";
    if (now.value && !stale.value && !now.value.current && startOf(now.value, session.person?.id) === "start") return "start";
    return now.value ? actionOf(now.value) : "walk";
  });
  const to = computed(() => {
    const params = { machine: machine.value };
    if (next.value === "open") return { name: "machine-defects", params };
    if (next.value === "start") return { name: "run", params };
    return now.value ? placeOf(now.value) : { name: "approach", params };
  });
  return { now, stale, next, to };
}
