import type { Schemas } from "../api/client";

/** Every state has a letter, an outline and a colour of its own; the colour never stands alone. */
export type Mark =
  | Schemas["ItemOut"]["grade"]
  | Schemas["VerdictOut"]["outcome"]
  | Schemas["YardMachineOut"]["go"]
  | "unseen"
  | "ungraded"
  | "abandoned"
  | "lapsed";

type Outline = "circle" | "square" | "diamond" | "octagon" | "house" | "ring" | "dashed";

export const marks: Record<Mark, { letter: string; outline: Outline; colour: string }> = {
  sound: { letter: "S", outline: "ring", colour: "--sound" },
  watch: { letter: "W", outline: "circle", colour: "--watch" },
  mend: { letter: "M", outline: "square", colour: "--mend" },
  limit: { letter: "L", outline: "diamond", colour: "--limit" },
  hold: { letter: "H", outline: "octagon", colour: "--hold" },
  unseen: { letter: "?", outline: "dashed", colour: "--soft" },
  ready: { letter: "R", outline: "house", colour: "--sound" },
  "ready-mends-due": { letter: "M", outline: "square", colour: "--mend" },
  limited: { letter: "L", outline: "diamond", colour: "--limit" },
  held: { letter: "H", outline: "octagon", colour: "--hold" },
  walking: { letter: "…", outline: "dashed", colour: "--here" },
  uninspected: { letter: "?", outline: "dashed", colour: "--soft" },
  ungraded: { letter: "!", outline: "dashed", colour: "--hold" },
  abandoned: { letter: "–", outline: "dashed", colour: "--soft" },
  lapsed: { letter: "–", outline: "dashed", colour: "--soft" },
  incomplete: { letter: "…", outline: "dashed", colour: "--here" },
};

/** The outline as a path about the origin, with radius 1. */
export function outlinePath(outline: Outline): string {
  switch (outline) {
    case "square":
      return "M-.88-.88H.88V.88H-.88Z";
    case "diamond":
      return "M0-1.2 1.2 0 0 1.2-1.2 0Z";
    case "octagon":
      return "M-.42-1H.42L1-.42V.42L.42 1H-.42L-1 .42V-.42Z";
    case "house":
      return "M0-1.1 1-.25V.95H-1V-.25Z";
    default:
      return "M-1 0A1 1 0 1 1 1 0A1 1 0 1 1-1 0Z";
  }
}
