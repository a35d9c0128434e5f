import type { Schemas } from "../api/client";

type YardMachine = Schemas["YardMachineOut"];

/** What a person does next with this machine. */
export function actionOf(m: YardMachine): "resume" | "walk" | "again" {
  if (m.current) return "resume";
  return m.go === "uninspected" ? "walk" : "again";
}

export const STATES = ["held", "uninspected", "walking", "limited", "ready-mends-due", "ready"] as const;

/** What blocks the shift first. */
export const order = (machines: YardMachine[]) => [...machines].sort((a, b) => STATES.indexOf(a.go) - STATES.indexOf(b.go));

/** Whether it may be started for work as it stands. */
export const mayStart = (m: YardMachine) => ["ready", "ready-mends-due", "limited"].includes(m.go);
