import { computed, reactive, ref, type Ref } from "vue";

/** How the plan is looked at: how near, where its middle lies off the whole, metres, and how far it is turned, degrees. */
export interface MapView {
  zoom: number;
  x: number;
  y: number;
  turn: number;
}
const WHOLE: MapView = { zoom: 1, x: 0, y: 0, turn: 0 };
const NEAREST = 6;
/** A finger that moved less, px, meant a tap. */
const STILL = 8;

export function useMapView() {
  const view = reactive<MapView>({ ...WHOLE });
  const moved = computed(() => view.zoom !== 1 || view.turn !== 0 || view.x !== 0 || view.y !== 0);
  const whole = () => Object.assign(view, WHOLE);
  function near(by: number) {
    view.zoom = Math.min(NEAREST, Math.max(1, view.zoom * by));
    if (view.zoom === 1) Object.assign(view, { x: 0, y: 0 });
  }
  /** Turned so that what lies ahead, from one place of the plan to another, is up. */
  function ahead(from: number[], to: number[]) {
    const along = (Math.atan2(-(to[1]! - from[1]!), to[0]! - from[0]!) * 180) / Math.PI;
    view.turn = Math.round(-90 - along);
  }
  return { view, moved, whole, near, ahead };
}

/** Fingers on the plan: one drags it, two bring it nearer and turn it. What was dragged is no tap. */
export function useFingers(view: () => MapView | undefined, metre: Ref<number>) {
  const down = new Map<number, { x: number; y: number }>();
  const dragged = ref(false);
  let travelled = 0;

  function pointerdown(e: PointerEvent) {
    if (down.size === 0) {
      dragged.value = false;
      travelled = 0;
    }
    down.set(e.pointerId, { x: e.clientX, y: e.clientY });
  }
  function pointermove(e: PointerEvent) {
    const before = down.get(e.pointerId);
    const now = view();
    if (!before || !now) return;
    const [dx, dy] = [e.clientX - before.x, e.clientY - before.y];
    travelled += Math.hypot(dx, dy);
    if (travelled > STILL) dragged.value = true;
    if (!dragged.value) return;
    const other = [...down].find(([id]) => id !== e.pointerId)?.[1];
    if (other) {
      const was = { d: Math.hypot(before.x - other.x, before.y - other.y), a: Math.atan2(before.y - other.y, before.x - other.x) };
      const is = { d: Math.hypot(e.clientX - other.x, e.clientY - other.y), a: Math.atan2(e.clientY - other.y, e.clientX - other.x) };
      if (was.d > 1) now.zoom = Math.min(NEAREST, Math.max(1, (now.zoom * is.d) / was.d));
      now.turn += ((is.a - was.a) * 180) / Math.PI;
    } else if (now.zoom > 1) {
      now.x -= dx * metre.value;
      now.y -= dy * metre.value;
    }
    down.set(e.pointerId, { x: e.clientX, y: e.clientY });
  }
  const pointerup = (e: PointerEvent) => void down.delete(e.pointerId);
  /** The click that ends a drag is nobody's choice of a station. */
  function click(e: MouseEvent) {
    if (!dragged.value) return;
    dragged.value = false;
    e.stopPropagation();
    e.preventDefault();
  }
  function wheel(e: WheelEvent) {
    const now = view();
    if (!now || !e.ctrlKey) return;
    e.preventDefault();
    now.zoom = Math.min(NEAREST, Math.max(1, now.zoom * (e.deltaY < 0 ? 1.15 : 1 / 1.15)));
  }
  return { pointerdown, pointermove, pointerup, pointercancel: pointerup, click, wheel };
}
