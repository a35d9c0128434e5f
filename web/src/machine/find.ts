import type { Schemas } from "../api/client";

type Checkpoint = Schemas["CheckpointOut"];

/** Checkpoints in which every word occurs; a hit in the name stands before one in what is looked at. */
export function findCheckpoints(checkpoints: Checkpoint[], text: string): Checkpoint[] {
  const words = text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
  if (!words.length) return [];
  const score = (c: Checkpoint): number => {
    const name = c.name.toLowerCase();
    const rest = `${c.system} ${c.look} ${c.how} ${c.station} ${c.fluid ?? ""} ${c.also.join(" ")}`.toLowerCase();
    let sum = 0;
    for (const word of words) {
      if (name.split(/[^\p{L}\p{N}]+/u).some((part) => part.startsWith(word))) sum += 4;
      else if (name.includes(word)) sum += 2;
      else if (rest.includes(word)) sum += 1;
      else return 0;
    }
    return sum;
  };
  return checkpoints
    .map((c) => ({ c, s: score(c) }))
    .filter((x) => x.s > 0)
    .sort((a, b) => b.s - a.s)
    .map((x) => x.c);
}
