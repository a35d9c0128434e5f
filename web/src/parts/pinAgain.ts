import { shallowRef } from "vue";

import { call, type Problem } from "../api/client";

/** Whose PIN the server asks for again before it takes what they answer for by name, and for which entries. */
interface Wanted {
  person: string;
  entries: string[];
  given: (yes: boolean) => void;
}
export const wanted = shallowRef<Wanted | null>(null);

/** Ask for a PIN; true once the server has taken it, false if the person would not. One at a time. */
export function askPin(person: string, entries: string[]): Promise<boolean> {
  wanted.value?.given(false);
  return new Promise((resolve) => {
    wanted.value = {
      person,
      entries,
      given: (yes) => {
        wanted.value = null;
        resolve(yes);
      },
    };
  });
}

/** Give it; null once it is taken, else why not. */
export async function givePin(asked: Wanted, pin: string): Promise<Problem | "away" | null> {
  const reply = await call("post", "/api/session/pin", { body: { person: asked.person, pin, entries: asked.entries } });
  if (!reply.ok) return reply.problem ?? "away";
  asked.given(true);
  return null;
}

export const isPinAgain = (problem: Problem | null) => problem?.type.endsWith("pin-again") ?? false;
