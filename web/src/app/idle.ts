import { useEventListener, useIntervalFn, useStorage } from "@vueuse/core";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { deviceName, uuid7 } from "../parts/device";
import { call, untouched, type Problem } from "../api/client";
import { useSession } from "./session";

/** So long may a tablet lie untouched before it asks whether it is still the same person [ms]: common practice. */
const IDLE_MS = 15 * 60_000;
const LOOK_MS = 10_000;

/**
 * A tablet that was laid down is picked up by somebody else, who then taps in the first one's name. After a while it
 * asks who is there. A run is never covered: its page says stop, and an operator at work touches the machine and not
 * the tablet. With no connection a PIN cannot be checked: then a word does, and it is asked for once there is one.
 */
export function useIdle() {
  const session = useSession();
  const route = useRoute();
  const touched = useStorage("jutrel-touched", Date.now());
  /** Whoever went on by their word alone. */
  const owed = useStorage("jutrel-pin-owed", "");
  const now = ref(Date.now());
  const person = computed(() => session.person?.id ?? "");
  const idle = computed(() => person.value !== "" && (now.value - touched.value > IDLE_MS || touched.value - now.value > IDLE_MS));
  const held = ref(false);
  watch(
    idle,
    (is) => {
      if (is) held.value = true;
    },
    { immediate: true },
  );
  watch(person, (is, was) => {
    if (!is || (was && is !== was)) held.value = false;
    if (is && !was && !idle.value) touch();
    if (is && owed.value === is && navigator.onLine) held.value = true;
  });
  watch(idle, (is) => (untouched.value = is), { immediate: true });
  const covered = computed(() => held.value && person.value !== "" && route.name !== "run" && !route.meta.anyone && !route.meta.open);

  function touch() {
    if (!held.value && Date.now() - touched.value > 2_000) touched.value = Date.now();
    now.value = Date.now();
  }
  function open() {
    touched.value = now.value = Date.now();
    held.value = false;
  }
  for (const happened of ["pointerdown", "keydown"] as const)
    useEventListener(
      window,
      happened,
      () => {
        now.value = Date.now();
        if (!idle.value) touch();
      },
      { capture: true },
    );
  useEventListener(document, "visibilitychange", () => {
    now.value = Date.now();
  });
  useIntervalFn(() => {
    now.value = Date.now();
  }, LOOK_MS);
  useEventListener(window, "online", () => {
    if (owed.value && owed.value === person.value) held.value = true;
  });

  /** The PIN of whoever is signed in; null: it is right, and the page is open again. */
  async function give(pin: string): Promise<Problem | "away" | null> {
    const reply = await call("post", "/api/session/pin", { body: { person: person.value, pin, entries: [uuid7()] } });
    // The server ended a session that nobody used: the same person signs in anew, and what is open stays.
    if (!reply.ok && reply.problem?.type.endsWith("/not-signed-in")) {
      const anew = await session.signIn(person.value, pin, deviceName());
      if (anew) return anew === "denied" ? "away" : anew;
    } else if (!reply.ok) return reply.problem ?? "away";
    owed.value = "";
    open();
    return null;
  }
  /** With no connection: their word. */
  function word() {
    owed.value = person.value;
    open();
  }
  return { covered, give, word };
}
