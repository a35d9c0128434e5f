import type { Schemas } from "../api/client";

/** The part of the plane that a drawing takes up, with a margin [m] on each side; drawings count y upwards. */
export function viewBox({ bounds: [x0, y0, x1, y1] }: Schemas["DrawingOut"], margin = 0.3): string {
  return `${x0 - margin} ${-y1 - margin} ${x1 - x0 + 2 * margin} ${y1 - y0 + 2 * margin}`;
}
