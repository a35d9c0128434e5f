/** How a part of a small drawing is made: line, thin, dashed, filled; `wrong` and `wrongFill` are what is wrong with it. */
export type Stroke = ["line" | "thin" | "dash" | "fill" | "wrong" | "wrongFill", string];

export const drop = (x: number, y: number, r: number) =>
  `M${x} ${y} c${-r * 0.7} ${r} ${-r} ${r * 1.4} ${-r} ${r * 1.9} a${r} ${r} 0 0 0 ${r * 2} 0 c0 ${-r * 0.5} ${-r * 0.3} ${-r * 0.9} ${-r} ${-r * 1.9} Z`;
export const dot = (x: number, y: number, r: number) => `M${x - r} ${y} a${r} ${r} 0 1 0 ${r * 2} 0 a${r} ${r} 0 1 0 ${-r * 2} 0 Z`;
export const hex = (x: number, y: number, r: number) =>
  `M${x - r} ${y} l${r / 2} ${-r * 0.86} h${r} l${r / 2} ${r * 0.86} l${-r / 2} ${r * 0.86} h${-r} Z`;
export const box = (x: number, y: number, w: number, h: number) => `M${x} ${y} h${w} v${h} h${-w} Z`;
