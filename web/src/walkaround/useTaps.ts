import { ElNotification } from "element-plus";
import { nextTick, ref, watch, type Ref } from "vue";
import { useI18n } from "vue-i18n";

import type { useLap } from "./useLap";
import type { AnswerWhat, Checkpoint, Clear, Finding, ReadWhat, useWalk } from "./useWalk";

export type Asking = "unseen" | "note" | "sound" | "undo" | "cannot";

/** What the hand does at the checkpoints of a station. `cards`: the list that scrolls. */
export function useTaps(w: ReturnType<typeof useWalk>, lap: ReturnType<typeof useLap>, cards: Ref<HTMLElement | null>) {
  const { t } = useI18n();
  const { answers, walk } = w;
  const { points, here } = lap;
  const focused = ref("");
  const drawer = ref(false);
  const target = ref<Checkpoint | null>(null);
  const dialog = ref<Asking | null>(null);
  const needed = ref<Clear>("free");
  const text = ref("");

  watch(
    here,
    async () => {
      await nextTick();
      cards.value?.scrollTo({ top: 0 });
      focused.value = points.value.find((c) => !answers.value.has(c.id))?.id ?? points.value[0]?.id ?? "";
    },
    { immediate: true },
  );

  function focus(id: string) {
    focused.value = id;
    cards.value?.querySelector(`[data-test="cp-${id}"]`)?.scrollIntoView({ block: "nearest", behavior: "smooth" });
  }
  function moveOn(id: string) {
    const i = points.value.findIndex((c) => c.id === id);
    const after = points.value.slice(i + 1).find((c) => !answers.value.has(c.id));
    if (after) focus(after.id);
  }
  /** A write that the device would not take is said at once. */
  async function tell(kept: Promise<string | null>): Promise<boolean> {
    const done = (await kept) !== null;
    if (!done)
      ElNotification({
        title: t("walk.deviceFull"),
        message: t("walk.deviceFullText"),
        type: "error",
        duration: 0,
        position: "bottom-left",
      });
    return done;
  }
  const answer = (c: Checkpoint, word: "sound" | "defect" | "unseen", findings: Finding[] = [], reason = "") =>
    tell(w.add({ kind: "answered", checkpoint: c.id, answer: word, findings, reason, amends: "" }));
  async function sound(c: Checkpoint) {
    const now = answers.value.get(c.id);
    if (now?.answer === "sound" && !now.differ) return moveOn(c.id);
    if (now && now.clear !== "free" && now.clear !== "second") {
      needed.value = now.clear;
      return ask(now.clear === "reason" ? "sound" : "cannot", c);
    }
    moveOn(c.id); // first, so that the next quick tap means the next one
    await answer(c, "sound");
  }
  /** What no life depends on and is left here, answered by one tap; each is an answer of its own, and says so. */
  async function soundRest(rest: Checkpoint[]) {
    for (const c of rest)
      if (
        !(await tell(w.add({ kind: "answered", checkpoint: c.id, answer: "sound", findings: [], reason: "", amends: "", together: true })))
      )
        return;
  }
  function defect(c: Checkpoint) {
    target.value = c;
    focused.value = c.id;
    drawer.value = true;
  }
  async function saveDefect(findings: Finding[], why: string) {
    const c = target.value!;
    if (!(await answer(c, "defect", findings, why))) return; // the drawer stays open with what was chosen
    drawer.value = false;
    moveOn(c.id);
  }
  /** What stayed blocked is reported as not seen, each checkpoint by itself. */
  async function reportBlocked(station: string) {
    for (const c of lap.untouched(station)) await answer(c, "unseen", [], t("way.blockedReason"));
  }
  function ask(what: Asking, c: Checkpoint | null) {
    target.value = c;
    text.value = "";
    dialog.value = what;
  }
  const photoAt = (id: string, blob: Blob) => tell(w.addPhoto(id, blob).then((ok) => (ok ? id : null)));
  async function photoHere(blob: Blob) {
    const id = focused.value || points.value[0]?.id;
    if (id) await photoAt(id, blob);
  }
  async function saveText() {
    const c = target.value;
    const what = dialog.value;
    const said = text.value.trim();
    dialog.value = null; // first, so that the next key means the walk again
    if (what === "unseen" && c) {
      moveOn(c.id);
      await answer(c, "unseen", [], said);
    } else if (what === "sound" && c && said) {
      moveOn(c.id);
      await answer(c, "sound", [], said);
    } else if (what === "undo" && said) {
      await takeBack(said);
    } else if (what === "note" && said) {
      await tell(w.add({ kind: "noted", text: said, checkpoint: c?.id ?? "" }));
    }
  }
  async function take(what: AnswerWhat) {
    if (await tell(w.add(what))) moveOn(what.checkpoint);
  }
  const keepReading = (what: ReadWhat) => tell(w.add(what));
  async function undo() {
    const last = w.undoable.value;
    if (last?.reason) ask("undo", walk.value?.checkpoints.find((x) => x.id === last.checkpoint) ?? null);
    else if (last) await takeBack("");
  }
  async function takeBack(reason: string) {
    const last = await w.undo(reason);
    if (!last) return;
    const c = walk.value?.checkpoints.find((x) => x.id === last.checkpoint);
    ElNotification({ title: t("walk.undone"), message: c?.name ?? "", duration: 2500, position: "bottom-left" });
    if (c && c.station !== here.value) await lap.arrive(c.station);
  }
  const askNote = () => ask("note", points.value.find((c) => c.id === focused.value) ?? null);

  return {
    focused,
    drawer,
    target,
    dialog,
    needed,
    text,
    focus,
    sound,
    defect,
    saveDefect,
    reportBlocked,
    ask,
    askNote,
    photoAt,
    photoHere,
    saveText,
    take,
    keepReading,
    soundRest,
    undo,
  };
}
