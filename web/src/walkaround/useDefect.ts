import { useDebounceFn } from "@vueuse/core";
import { computed, reactive, ref, watch, type Ref } from "vue";

import type { Schemas } from "../api/client";
import { gradeFinding, latest } from "../core/rulebook";
import { NO_OPENING, type Checkpoint, type Finding } from "./useWalk";

type Value = string | number | boolean;
type Mode = Schemas["ModeOut"];

export interface DefectAt {
  walk: Schemas["WalkOut"];
  checkpoint: Checkpoint | null;
  machine: string;
  inspection: string;
  opened: Schemas["OpeningOut"] | null;
  before: Finding[];
}

/** A question with the answers that can be there: what the place implies is not asked. */
function offered(a: Schemas["AttributeOut"], c: Checkpoint | null): Schemas["AttributeOut"] {
  if (!c?.duty_id) return a;
  const can = {
    coupling: c.couplings,
    fluid: c.fluids,
    leak_class: c.pressurised ? null : a.choices.map((x) => x.id).filter((id) => id !== "spray"),
  }[a.id];
  return can ? { ...a, choices: a.choices.filter((x) => can.includes(x.id)) } : a;
}

/** What is said of a defect while the drawer is open, and the grade it would have. */
export function useDefect(at: DefectAt, open: Ref<boolean>) {
  const mode = ref("");
  const values = reactive<Record<string, Value>>({});
  const note = ref("");
  const fixed = ref(false);
  const done = ref("");
  const amount = ref("");
  /** Why what was reported before is said otherwise now. */
  const why = ref("");
  const kept = ref<Finding[]>([]);
  const item = ref<Schemas["ItemOut"] | null>(null);
  const away = ref(false);

  const modes = computed(() => (at.checkpoint?.failure_modes ?? []).flatMap((id) => at.walk.modes.filter((m) => m.id === id)));
  const attribute = (id: string) =>
    offered(
      at.walk.attributes.find((a) => a.id === id)!,
      at.checkpoint,
    );
  /** The first ordered question of a mode is asked at once, so that a defect is three taps. */
  const first = (m: Mode) => attribute(m.attributes.find((a) => attribute(a).kind === "scale") ?? m.attributes[0]!);
  const current = computed(() => modes.value.find((m) => m.id === mode.value) ?? null);
  const asked = computed(() =>
    (current.value?.attributes ?? [])
      .map(attribute)
      .filter((a) => a.kind === "flag" || a.kind === "number" || a.choices.length > (a.kind === "choice" ? 1 : 0)),
  );
  const rest = computed(() => asked.value.filter((a) => a.id !== first(current.value!).id && a.kind !== "number"));
  const numbers = computed(() => asked.value.filter((a) => a.kind === "number" && !["drops", "seconds"].includes(a.id)));
  const counts = computed(() => current.value?.id === "leak" && values.leak_class === "III");
  /** What the operator may put right himself here, and says so. */
  const mayPutRight = computed(() => Boolean(current.value && at.checkpoint?.put_right.includes(current.value.id)));
  const number = (id: string) => (typeof values[id] === "number" ? values[id] : undefined);

  const finding = computed(() => {
    const attributes: Record<string, Value> = {};
    for (const a of current.value?.attributes ?? []) if (values[a] !== undefined) attributes[a] = values[a]!;
    const right = fixed.value && mayPutRight.value && done.value.trim() ? { done: done.value.trim(), amount: amount.value.trim() } : null;
    return { failure_mode: mode.value, attributes, note: note.value.trim(), put_right: right };
  });
  const all = computed<Finding[]>(() => (mode.value ? [finding.value, ...kept.value] : kept.value));

  function clear() {
    mode.value = "";
    note.value = done.value = amount.value = why.value = "";
    fixed.value = false;
    item.value = null;
    for (const key of Object.keys(values)) delete values[key];
  }
  function recall(again: Finding) {
    mode.value = again.failure_mode;
    Object.assign(values, again.attributes);
    note.value = again.note ?? "";
    if (!again.put_right) return;
    fixed.value = true;
    done.value = again.put_right.done;
    amount.value = again.put_right.amount ?? "";
  }
  watch(open, (now) => {
    if (!now) return;
    kept.value = [...at.before];
    const again = kept.value.shift();
    clear();
    if (again) recall(again);
  });

  function pick(m: Mode, choice: string) {
    if (mode.value !== m.id) {
      for (const key of Object.keys(values)) delete values[key];
      mode.value = m.id;
      if (!at.checkpoint?.duty_id && m.attributes.includes("fluid") && at.checkpoint?.fluid) values.fluid = at.checkpoint.fluid;
    }
    values[first(m).id] = choice;
  }
  /** The next worse answer to a mode's first question, if there is one. */
  function worse(f: Finding) {
    const m = at.walk.modes.find((x) => x.id === f.failure_mode);
    const asked = m && first(m);
    const now = asked?.choices.findIndex((c) => c.id === f.attributes?.[asked.id]) ?? -1;
    return asked && now >= 0 ? asked.choices[now + 1] : undefined;
  }
  const canWorsen = (f: Finding) => worse(f) !== undefined;
  function repeat(f: Finding, more = false) {
    clear();
    recall({ ...f, note: "", put_right: null });
    const next = more ? worse(f) : undefined;
    if (next) values[first(current.value!).id] = next.id;
  }
  function putRight(on: boolean) {
    fixed.value = on;
    if (on && !done.value) done.value = current.value?.put_right ?? "";
  }
  const toggle = (id: string, choice: Value) => (values[id] === choice ? delete values[id] : (values[id] = choice));
  function another() {
    kept.value = [...kept.value, finding.value];
    clear();
  }

  const grade = latest((signal, checkpoint: string) =>
    gradeFinding(
      { machine: at.machine, inspection: at.inspection, checkpoint, finding: finding.value, opened: at.opened ?? NO_OPENING },
      signal,
    ),
  );
  const preview = useDebounceFn(async () => {
    if (!mode.value || !at.checkpoint) return;
    const reply = await grade(at.checkpoint.id);
    if (reply === null) return;
    away.value = !reply.ok && reply.away;
    item.value = reply.ok ? reply.data : null;
  }, 120);
  watch([mode, values, note, fixed, done, amount], () => void preview(), { deep: true });

  return {
    mode,
    values,
    note,
    fixed,
    done,
    amount,
    why,
    kept,
    item,
    away,
    modes,
    first,
    rest,
    numbers,
    counts,
    mayPutRight,
    number,
    all,
    pick,
    putRight,
    toggle,
    another,
    repeat,
    canWorsen,
  };
}
