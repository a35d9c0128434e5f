import type { Schemas } from "../api/client";

export type Grouping = "" | "go" | "family" | "model";
export const GROUPINGS = ["", "go", "family", "model"] as const satisfies readonly Grouping[];

/** Machines that stand together: by state in its order, else by name; in each the order that they came in. */
export function grouped(machines: Schemas["YardMachineOut"][], by: Grouping): { name: string; machines: Schemas["YardMachineOut"][] }[] {
  if (!by) return [{ name: "", machines }];
  const groups = new Map<string, Schemas["YardMachineOut"][]>();
  for (const m of machines) {
    const name = by === "go" ? m.go : by === "family" ? m.machine.family : `${m.machine.maker} ${m.machine.model}`;
    groups.set(name, [...(groups.get(name) ?? []), m]);
  }
  const found = [...groups].map(([name, some]) => ({ name, machines: some }));
  return by === "go" ? found : found.sort((a, b) => a.name.localeCompare(b.name));
}
