import { useSessionStorage } from "@vueuse/core";
import { useRouter } from "vue-router";

import { useOutbox } from "../parts/outbox";
import { useLanguage } from "./language";
import { useSession } from "./session";

/** What comes after somebody signed in, however they did: in their language, to the page that was asked for or their own. */
export function useEntering() {
  const session = useSession();
  const outbox = useOutbox();
  const router = useRouter();
  const { greet } = useLanguage();
  // Kept while the page is made anew in the other language.
  const justChosen = useSessionStorage("jutrel-just-chosen", false);

  async function goOn(asked: unknown) {
    void outbox.flush();
    await greet(session.person?.language ?? "", justChosen.value);
    justChosen.value = false;
    const to = typeof asked === "string" && asked.startsWith("/") && !asked.startsWith("//") ? asked : "/";
    // Whoever asked for no page comes to their own: what waits for them.
    await router.push(to === "/" ? { name: "today" } : to);
  }
  return { justChosen, goOn };
}
