import type { Schemas } from "../api/client";

type YardMachine = Schemas["YardMachineOut"];
type Defect = Schemas["OpenDefectOut"];

/** The machines as a person meets them today: theirs, and by what keeps each from working. */
export function groupsOf(machines: YardMachine[], me: string) {
  const name = (a: YardMachine, b: YardMachine) => a.machine.name.localeCompare(b.machine.name, undefined, { numeric: true });
  const are = (...go: YardMachine["go"][]) => machines.filter((m) => go.includes(m.go)).sort(name);
  return {
    /** The one under their hands first: a walk of theirs under way, then what they may start. */
    mine: machines
      .filter((m) => (m.current && m.walker === me) || m.cleared_for.includes(me))
      .sort((a, b) => Number(b.walker === me) - Number(a.walker === me) || name(a, b)),
    held: are("held"),
    limited: are("limited"),
    walking: machines.filter((m) => m.current).sort(name),
    unwalked: are("uninspected"),
  };
}

/** The word that a defect waits for from whoever asks, if it is one that nobody else's work comes before. */
export const wordOf = (d: Defect): "rechecked" | "accepted" | null =>
  d.may.includes("rechecked") ? "rechecked" : d.may.includes("accepted") ? "accepted" : null;
