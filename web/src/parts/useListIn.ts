import { computed, ref, shallowRef } from "vue";
import { useI18n } from "vue-i18n";

import type { Reply } from "../api/client";

interface News<Line> {
  lines: Line[];
  kept: boolean;
  next?: number | null;
}
interface Asked {
  id: string;
  text: string;
  keep: boolean;
  after: number;
}

/**
 * A list that is looked at, then taken in part by part: how far it is, a way to stop between two parts, and to go on.
 * `send` asks the server once; `adds`: whether a line is of something new.
 */
export function useListIn<Line extends { line: number; does: string }>(
  send: (asked: Asked) => Promise<Reply<News<Line>>>,
  how: { most: number; newId: () => string; adds: (line: Line) => boolean; taken: () => Promise<unknown> },
) {
  const { t } = useI18n();
  const news = shallowRef<News<Line> | null>(null);
  const says = ref("");
  const busy = ref(false);
  /** Up to which line it is taken in. */
  const reached = ref(0);
  const stopping = ref(false);
  let text = "",
    id = "";

  const count = (...does: string[]) => news.value?.lines.filter((x) => does.includes(x.does)).length ?? 0;
  const fresh = computed(() => news.value?.lines.filter(how.adds) ?? []);
  const done = computed(() =>
    reached.value || busy.value ? { done: fresh.value.filter((x) => x.line <= reached.value).length, all: fresh.value.length } : null,
  );
  const may = computed(() => news.value !== null && !news.value.kept && count("refused") === 0 && fresh.value.length > 0);

  async function look(file: Blob) {
    news.value = null;
    reached.value = 0;
    text = (await file.text()).slice(0, how.most);
    id = how.newId();
    busy.value = true;
    const reply = await ask(false, 0);
    busy.value = false;
    if (reply) news.value = reply;
  }

  async function ask(keep: boolean, after: number): Promise<News<Line> | null> {
    says.value = "";
    const reply = await send({ id, text, keep, after });
    if (reply.ok) return reply.data;
    says.value = reply.problem?.detail ?? t("connection.awayLong");
    return null;
  }

  /** Take in what is left of it. Stopped, or cut off, it goes on where it was. */
  async function keep() {
    stopping.value = false;
    busy.value = true;
    for (let more = true; more && !stopping.value;) {
      const after = reached.value;
      const reply = await ask(true, after);
      if (!reply) break;
      const last = reply.next ?? Infinity;
      more = !reply.kept && reply.next != null;
      const anew = new Map(reply.lines.filter((x) => x.line > after && x.line <= last).map((x) => [x.line, x]));
      // A line that is refused by now stops all of it: then the answer is shown as it is.
      const lines = reply.lines.some((x) => x.does === "refused") ? reply.lines : news.value!.lines.map((x) => anew.get(x.line) ?? x);
      reached.value = reply.kept || more ? last : after;
      news.value = { ...reply, lines };
    }
    busy.value = false;
    if (reached.value) await how.taken();
  }
  /** Whether a line was of something new and is taken in. */
  const taken = (x: Line) => x.line <= reached.value && how.adds(x);
  const stop = () => (stopping.value = true);

  return { news, says, busy, done, may, count, fresh, look, keep, stop, taken };
}
