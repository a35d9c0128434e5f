import { useStorage } from "@vueuse/core";
import { reactive } from "vue";

/** The browser's own speech, where it has one; off until a hand asks for it. */
const on = useStorage("jutrel-voice", false);
export const voice = reactive({
  there: "speechSynthesis" in window,
  on,
  toggle() {
    on.value = !on.value;
    if (!on.value) window.speechSynthesis?.cancel();
  },
});

/** Say a step aloud, in the page's language; a new one cuts off the last. */
export function speak(text: string, language: string) {
  if (!voice.there || !on.value) return;
  window.speechSynthesis.cancel();
  const said = new SpeechSynthesisUtterance(text);
  said.lang = language;
  window.speechSynthesis.speak(said);
}
