import type { Ref } from "vue";

/** What a drawn control needs to be set by finger, mouse and keyboard: its drawing, its range, where a point means what. */
export interface Range {
  low: number;
  high: number;
  step: number;
}

/** A value that is dragged on a drawing of `width` by `height`; `at` says what a point of the drawing means. */
export function useDragged(
  model: Ref<number>,
  range: () => Range,
  size: { width: number; height: number },
  at: (x: number, y: number) => number,
) {
  const hold = (value: number) => {
    const { low, high, step } = range();
    const stepped = Math.round(value / step) * step;
    model.value = Number(Math.min(high, Math.max(low, stepped)).toFixed(6));
  };
  function set(e: PointerEvent) {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    hold(at(((e.clientX - box.left) / box.width) * size.width, ((e.clientY - box.top) / box.height) * size.height));
  }
  function pointerdown(e: PointerEvent) {
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    set(e);
  }
  function pointermove(e: PointerEvent) {
    if ((e.currentTarget as Element).hasPointerCapture(e.pointerId)) set(e);
  }
  function keydown(e: KeyboardEvent) {
    const { low, high, step } = range();
    const by = { ArrowUp: step, ArrowRight: step, ArrowDown: -step, ArrowLeft: -step, PageUp: 10 * step, PageDown: -10 * step }[e.key];
    if (by === undefined && e.key !== "Home" && e.key !== "End") return;
    e.preventDefault();
    e.stopPropagation();
    if (e.key === "Home") hold(low);
    else if (e.key === "End") hold(high);
    else hold(model.value + by!);
  }
  return { on: { pointerdown, pointermove, keydown } };
}

/** A round figure not under this one, for the end of a dial. */
export function roundUp(value: number): number {
  const base = 10 ** Math.floor(Math.log10(Math.max(value, 1e-6)));
  return [1, 1.5, 2, 3, 4, 5, 6, 8, 10].map((n) => n * base).find((n) => n >= value * 0.999) ?? 10 * base;
}
