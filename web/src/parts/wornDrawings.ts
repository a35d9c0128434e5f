import { box, dot, type Stroke } from "./strokes";

/** How far worn: what is left of what may wear away, from new (1) to its limit (0), and past it. */
const LEFT = { half: 0.5, "three-quarters": 0.25, limit: 0, beyond: -0.3 } as const;
type Worn = keyof typeof LEFT;
type Drawn = (worn: Worn, left: number) => Stroke[];
const n = (x: number) => Math.round(x * 10) / 10;

/** Blocks of a tyre's tread over its casing. */
const tread: Drawn = (worn, left) => [
  ["line", "M3 35 H61 M3 45 H61"],
  ["thin", "M3 40 H61"],
  ...[6, 25, 44].flatMap((x): Stroke[] => [
    ["dash", `M${x} 35 V8 H${x + 14} V35`],
    ["wrong", worn === "beyond" ? `M${x} 35 q4 6 7 1 q3 6 7 -1` : `M${x} 35 V${n(33 - 27 * left)} H${x + 14} V35`],
  ]),
];
/** The teeth of a step that keep a boot from slipping, over the plate. */
const step: Drawn = (worn, left) => [
  ["line", worn === "beyond" ? "M3 32 H22 L26 40 H3 Z M61 32 H40 L44 40 H61 Z" : "M3 32 H61 V40 H3 Z"],
  ...[4, 16, 28, 40, 52].map((x): Stroke => ["dash", `M${x} 32 l4 -18 l4 18`]),
  ...(worn === "beyond" ? [] : [4, 16, 28, 40, 52]).map((x): Stroke => [
    "wrong",
    `M${x} 32 L${n(x + 4 * left)} ${n(32 - 18 * left)} H${n(x + 8 - 4 * left)} L${x + 8} 32`,
  ]),
  ...(worn === "beyond" ? ([["wrong", "M22 32 l3 3 l-1 5 M40 32 l-2 4 l4 4"]] as Stroke[]) : []),
];
/** A brake's lining between its backing plate and the disc. */
const lining: Drawn = (worn, left) => {
  const t = n(Math.max(0, 26 * left));
  return [
    ["line", box(46, 3, 9, 42)],
    ["dash", box(20, 10, 26, 28)],
    ["line", box(39 - t, 8, 7, 32)],
    worn === "beyond"
      ? ["wrong", "M46 14 q6 2 9 0 M46 22 q6 2 9 0 M46 30 q6 2 9 0 M38 8 l8 8 M38 24 l8 8"]
      : ["wrong", worn === "limit" ? "M46 10 V38" : box(46 - t, 10, t, 28)],
  ];
};
/** A pin in its bush: the gap between them. */
const pin: Drawn = (worn, left) => {
  const gap = n(6 - 6 * left);
  const bore: Stroke = worn === "beyond" ? ["wrong", "M18 22 a14 14 0 1 1 28 0 q2 20 -14 20 q-16 0 -14 -20 Z"] : ["line", dot(32, 24, 14)];
  return [["line", dot(32, 24, 21)], bore, ["wrong", dot(32, 24 + gap, 13 - gap)], ["thin", dot(32, 24 + gap, 2)]];
};
/** A roller or idler on its link: how much thinner it has become. */
const roller: Drawn = (_, left) => {
  const r = n(15 + 5 * left);
  return [
    ["dash", dot(32, 22, 20)],
    ["wrong", dot(32, 22, r)],
    ["line", dot(32, 22, 5)],
    ["line", `M4 ${n(22 + r + 1.5)} H60`],
  ];
};
/** Teeth of a sprocket: the thinner and the more hooked, the further. */
const SPROCKET: Record<Worn, string> = {
  half: "Q4 30 5 12 H9 Q10 30 14 42",
  "three-quarters": "Q5 30 6 12 H8 Q9 30 14 42",
  limit: "Q6 32 7 12 Q8 32 14 42",
  beyond: "Q5 34 10 22 Q9 34 14 42",
};
const moved = (path: string, x: number) =>
  path.replace(/([QH])([^QHL]*)/g, (_, letter: string, rest: string) => {
    const at = rest.trim().split(/\s+/).map(Number);
    return `${letter}${at.map((v, i) => (letter === "H" || i % 2 === 0 ? v + x : v)).join(" ")} `;
  });
const sprocket: Drawn = (worn) => [
  ["line", "M2 46 H62"],
  ...[3, 25, 47].flatMap((x): Stroke[] => [
    ["dash", `M${x} 42 L${x + 3} 10 H${x + 11} L${x + 14} 42`],
    ["wrong", `M${x} 42 ${moved(SPROCKET[worn], x)}`],
  ]),
];
/** A track shoe and its bar. */
const shoe: Drawn = (worn, left) => [
  worn === "beyond" ? ["wrong", "M4 34 Q32 44 60 34 V40 Q32 50 4 40 Z"] : ["line", "M4 34 H60 V41 H4 Z"],
  ["dash", box(25, 6, 11, 28)],
  ...(worn === "beyond" ? [] : ([["wrong", box(25, n(32 - 26 * left), 11, n(2 + 26 * left))]] as Stroke[])),
];
/** A bolted edge before the blade that it is there to save. */
const edge: Drawn = (worn, left) => [
  ["thin", "M3 46 H61"],
  worn === "beyond" ? ["line", "M32 3 V26 M42 3 V25"] : ["line", "M32 3 V30 H42 V3"],
  ["dash", box(20, 8, 12, 37)],
  ["wrong", `M20 8 H32 V${n(30 + 15 * left)} H20 Z`],
  ["line", "M14 15 H47 M14 22 H47"],
  ...(worn === "beyond" ? ([["wrong", "M32 26 l4 3 l3 -3 l3 -1"]] as Stroke[]) : []),
];
/** A tooth's point on its adapter. */
const tooth: Drawn = (worn) => [
  ["line", worn === "beyond" ? "M4 12 H16 M4 36 H16 M4 12 V36" : "M4 12 H22 L22 36 H4"],
  ["dash", "M22 12 L60 24 L22 36"],
  [
    "wrong",
    {
      half: "M22 12 L40 18 q4 6 0 12 L22 36",
      "three-quarters": "M22 12 L31 15 q5 9 0 18 L22 36",
      limit: "M22 12 q7 12 0 24",
      beyond: "M16 12 q-5 6 1 10 q3 7 -1 14",
    }[worn],
  ],
];
/** A plate's section: what has gone from its face, and the hole at last. */
const plate: Drawn = (worn, left) => {
  const y = n(31 - 17 * Math.max(0, left));
  return [
    ["dash", box(4, 12, 56, 24)],
    worn === "beyond" ? ["line", "M4 31 V36 H22 M60 31 V36 H42"] : ["line", `M4 ${y} V36 H60 V${y}`],
    ["wrong", worn === "beyond" ? "M4 31 q9 -2 16 1 l2 4 M60 31 q-8 -2 -15 1 l-3 4" : `M4 ${y} q9 3 18 0 q10 3 20 0 q9 3 18 0`],
  ];
};
/** A strip of rubber in its holder, on what it wipes. */
const strip: Drawn = (worn, left) => [
  ["line", box(22, 2, 20, 12)],
  ["line", "M4 46 Q32 32 60 46"],
  ["dash", box(28, 14, 8, 25)],
  ["wrong", worn === "beyond" ? "M27 14 l2 3 l2 -3 l2 3 l2 -3 l2 3" : `M28 14 V${n(17 + 20 * left)} H36 V14`],
];
/** A belt in its groove: it sits the deeper, the more it is worn. */
const belt: Drawn = (worn, left) => {
  const d = n(12 - 12 * Math.max(0, left));
  const x = (y: number) => n(17 + (8 * y) / 32);
  const at = (down: number) => `M${x(down)} ${8 + down} H${n(64 - x(down))} L${n(64 - x(down + 18))} ${26 + down} H${x(down + 18)} Z`;
  return [
    ["line", "M3 8 H17 L25 40 H39 L47 8 H61"],
    ["dash", at(0)],
    worn === "beyond" ? ["wrong", "M22 26 l3 -5 l4 5 l3 -6 l4 6 l3 -4 l3 4 M25 38 l3 -6 l4 5 l4 -5 l3 6"] : ["wrong", at(d)],
  ];
};
/** A belt of a seat: its edge, thread by thread. */
const webbing: Drawn = (worn) => [
  ["line", worn === "beyond" ? "M3 12 H26 M38 12 H61 M3 36 H24 M36 36 H61" : "M3 12 H61 M3 36 H16 M48 36 H61"],
  ["thin", "M8 12 L16 20 M18 12 L26 20 M40 12 L48 20 M50 12 L58 20 M6 28 L14 36 M50 28 L58 36"],
  [
    "wrong",
    {
      half: "M16 36 H28 l1 6 M28 36 H48 M36 36 l2 6",
      "three-quarters": "M16 36 H22 l-1 7 M22 36 q10 -4 20 0 H48 M28 35 l-1 8 M34 35 l2 8 M41 36 l2 7",
      limit: "M16 36 L28 19 L34 23 L48 36 M28 19 l-4 17 M31 21 l1 19 M37 27 l1 12",
      beyond: "M26 12 l-4 6 l5 5 l-5 6 l2 7 M38 12 l-5 7 l5 6 l-5 5 l3 6",
    }[worn],
  ],
];

/** How a place wears: by what it is there for, and by the place where that would show the wrong thing. */
const AS: Record<string, Drawn> = {
  "hold-wheel": tread,
  climb: step,
  stop: lining,
  steer: pin,
  carry: pin,
  "hold-tool": pin,
  power: pin,
  run: pin,
  restrain: pin,
  wear: plate,
  wipe: strip,
  belts: belt,
  "seat-belt": webbing,
  "air-cleaner": strip,
  "travel-lever": pin,
  "pedal-latch": pin,
  "arm-pads": plate,
  "leg-guides": plate,
  "edge-cutter": edge,
  edge,
  edges: edge,
  "corner-bits": edge,
  mouldboard: edge,
  teeth: tooth,
  scarifier: tooth,
  shank: tooth,
  "drum-feet": tooth,
  cleaners: tooth,
  ...Object.fromEntries(
    ["left", "right"].flatMap((s) => [
      [`rollers-${s}`, roller],
      [`carrier-${s}`, roller],
      [`idler-${s}`, roller],
    ]),
  ),
  ...Object.fromEntries(
    ["left", "right"].flatMap((s) => [
      [`sprocket-${s}`, sprocket],
      [`shoes-${s}`, shoe],
    ]),
  ),
  ...Object.fromEntries(["scraper-front", "scraper-rear", "scrapers-front", "scrapers-rear", "mats-front"].map((id) => [id, strip])),
};

/** Wear, drawn as it looks on each kind of part: `wear.half@climb` by what a place is for, `wear.half@belts` by the place. */
export const WORN: Record<string, Stroke[]> = Object.fromEntries(
  Object.entries(AS).flatMap(([key, drawn]) =>
    (Object.keys(LEFT) as Worn[]).map((worn) => [`wear.${worn}@${key}`, drawn(worn, LEFT[worn])]),
  ),
);
