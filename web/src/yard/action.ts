import type { Schemas } from "../api/client";

type YardMachine = Schemas["YardMachineOut"];

/** What a person does next with this machine. */
export function actionOf(m: YardMachine): "resume" | "walk" | "again" {
  if (m.current) return "resume";
  return m.go === "uninspected" ? "walk" : "again";
}

/** Where that is done. */
export const placeOf = (m: YardMachine) =>
  m.current
    ? { name: "walk", params: { machine: m.machine.id, inspection: m.current } }
    : { name: "approach", params: { machine: m.machine.id } };

export const STATES = ["held", "uninspected", "walking", "limited", "ready-mends-due", "ready"] as const;

/** What blocks the shift first. */
export const order = (machines: YardMachine[]) => [...machines].sort((a, b) => STATES.indexOf(a.go) - STATES.indexOf(b.go));

/** What a person may do with it as it stands: start it, take it over by an inspection of their own, or neither. */
export function startOf(m: YardMachine, person: string | undefined): "start" | "take-over" | "" {
  if (!m.cleared_for.length) return "";
  return person && m.cleared_for.includes(person) ? "start" : "take-over";
}
