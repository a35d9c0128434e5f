import { onMounted, onUnmounted, ref } from "vue";

/** Whether the server tells by itself when something was written; until it does, pages ask now and then. */
export const live = ref(false);

let source: EventSource | null = null;

/** Listen as long as somebody is signed in; `told` is called for each change, also for those that were missed. */
function listen(told: () => void) {
  if (source) return;
  source = new EventSource("/api/events");
  source.addEventListener("open", () => (live.value = true));
  source.addEventListener("yard", told);
  source.addEventListener("error", () => {
    live.value = false;
    // A refusal ends it for good; a lost line is taken up again by the browser itself.
    if (source?.readyState !== EventSource.CLOSED) return;
    source = null;
    setTimeout(() => open && listen(told), 30_000);
  });
}

let open = 0;

/** Listen while a view that shows what others write is open. */
export function useLive(told: () => void) {
  onMounted(() => {
    open += 1;
    listen(told);
  });
  onUnmounted(() => {
    open -= 1;
    if (open) return;
    source?.close();
    source = null;
    live.value = false;
  });
}
