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
  say(text, language);
}

function say(text: string, language: string, then?: () => void, rate = 1) {
  window.speechSynthesis.cancel();
  const said = new SpeechSynthesisUtterance(text);
  said.lang = language;
  said.rate = rate;
  if (then) said.onend = then;
  window.speechSynthesis.speak(said);
}

/** Read one after the other, slowly; `at` is told which one is read, and -1 at the end. What is given back stops it. */
export function readOut(texts: string[], language: string, at: (n: number) => void): () => void {
  let over = false;
  const stop = () => {
    if (over) return;
    over = true;
    at(-1);
    window.speechSynthesis.cancel();
  };
  const from = (n: number) => {
    if (over) return;
    if (n >= texts.length) return stop();
    at(n);
    say(texts[n]!, language, () => from(n + 1), 0.9);
  };
  from(0);
  return stop;
}
