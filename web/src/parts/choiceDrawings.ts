import { box, dot, drop, hex, type Stroke } from "./strokes";
import { WORN } from "./wornDrawings";

const ring = (n: number, open: number[]): Stroke[] =>
  Array.from({ length: n }, (_, i): Stroke => {
    const a = (i / n) * 2 * Math.PI - Math.PI / 2;
    const at = [32 + 17 * Math.cos(a), 24 + 17 * Math.sin(a)] as const;
    return open.includes(i) ? ["wrong", dot(at[0], at[1], 3.4)] : ["fill", dot(at[0], at[1], 3.4)];
  });

const FITTING: Stroke[] = [
  ["line", "M4 10 H24 M4 20 H24 M38 10 H60 M38 20 H60"],
  ["line", box(24, 6, 14, 18)],
  ["thin", "M31 6 V24"],
];
const PLATE: Stroke[] = [["line", box(6, 8, 52, 32)]];
const BEAD = "M8 30 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0 q3 -5 6 0";
const GLASS: Stroke[] = [
  ["line", "M24 4 H40 V44 H24 Z"],
  ["thin", "M18 14 H24 M40 14 H46 M18 34 H24 M40 34 H46"],
];
const JAR: Stroke[] = [["line", "M20 4 H44 M22 4 V40 q0 4 4 4 H38 q4 0 4 -4 V4"]];
const PANE: Stroke[] = [["line", "M12 6 H52 L58 42 H6 Z"]];
const TYRE = "M32 4 a20 20 0 0 1 20 20";
const TRACK: Stroke[] = [
  ["line", dot(12, 26, 8)],
  ["line", dot(52, 26, 8)],
  ["thin", "M12 34 H52"],
];
const HOSE: Stroke[] = [["line", "M4 16 H60 M4 32 H60"]];
const BREAKER: Stroke[] = [["line", box(20, 6, 24, 36)]];
const SIGN: Stroke[] = [["line", "M32 4 L60 42 H4 Z"]];
const LUG: Stroke[] = [
  ["line", "M8 14 H40 a10 10 0 0 1 0 20 H8 Z"],
  ["thin", dot(40, 24, 5)],
];

/** A lamp, and a lid with its latch: what breaks where there is no pane. */
const LAMP: Stroke[] = [
  ["line", dot(32, 21, 18)],
  ["line", "M24 38 V45 H40 V38"],
];
const LID: Stroke[] = [
  ["line", box(8, 8, 48, 32)],
  ["line", box(28, 34, 8, 10)],
  ["thin", "M14 8 V4 H22 V8 M42 8 V4 H50 V8"],
];
const broken = (as: string, whole: Stroke[], chip: string, crack: string, gone: Stroke[]): Record<string, Stroke[]> => ({
  [`broken.chip@${as}`]: [...whole, ["wrong", chip]],
  [`broken.cracked@${as}`]: [...whole, ["wrong", crack]],
  [`broken.view-lost@${as}`]: gone,
});
const LIDS = ["guard", "cover", "escape", "current", "warn", "feed", "lock"];

/** The drawing of a choice, by attribute and choice; with `@`, where the duty or the place looks different. 64 by 48. */
export const DRAWINGS: Record<string, Stroke[]> = {
  ...WORN,
  ...broken("light", LAMP, "M44 12 l-4 3 M44 12 l2 5 M44 12 l-5 -1", "M18 12 l9 6 l2 8 l10 2 l6 8", [
    ["dash", dot(32, 21, 18)],
    ["line", "M24 38 V45 H40 V38"],
    ["wrong", "M16 12 L26 4 L24 18 Z M40 5 L49 15 L37 20 Z M18 30 L30 24 L28 38 Z M36 28 L48 26 L42 36 Z"],
  ]),
  ...Object.assign(
    {},
    ...LIDS.map((as) =>
      broken(as, LID, "M50 8 l-5 5 l6 4 l5 -4", "M12 8 l8 9 l-3 7 l12 3 l6 13", [
        ["dash", box(8, 8, 48, 32)],
        ["wrong", "M8 8 H30 L24 18 L32 24 L22 40 H8 Z M40 12 L58 4 L60 26 L46 22 Z M38 32 L56 30 L54 44 L40 42 Z"],
      ]),
    ),
  ),
  "leak_class.I": [...FITTING, ["wrong", "M22 29 q9 5 18 0 M25 34 q6 3 12 0"]],
  "leak_class.II": [...FITTING, ["wrongFill", drop(31, 25, 5)]],
  "leak_class.III": [...FITTING, ["wrongFill", drop(31, 25, 3.4)], ["wrongFill", drop(31, 34, 3)], ["wrong", "M18 46 H44"]],
  "leak_class.spray": [...FITTING, ["wrong", "M31 25 L10 44 M31 25 L21 46 M31 25 L31 47 M31 25 L41 46 M31 25 L52 44"]],
  "coupling.hose": [
    ["line", "M4 40 C14 4 50 4 60 40 M14 42 C22 18 42 18 50 42"],
    ["wrongFill", drop(32, 26, 5)],
  ],
  "coupling.flat-face": [
    ["line", "M2 16 H20 M2 30 H20 M44 16 H62 M44 30 H62"],
    ["line", box(20, 6, 9, 34)],
    ["line", box(35, 6, 9, 34)],
    ["wrong", "M32 8 V38"],
  ],
  "coupling.flared": [
    ["line", "M2 16 H20 L34 8 V40 L20 32 H2"],
    ["line", "M36 12 L46 18 H62 M36 36 L46 30 H62"],
    ["wrong", "M35 8 V40"],
  ],
  "coupling.other": [
    ["line", box(4, 10, 34, 26)],
    ["line", "M38 19 H62 M38 27 H62"],
    ["wrong", "M38 8 V38"],
    ["wrongFill", drop(40, 37, 3)],
  ],
  "crack_where.paint": [...PLATE, ["wrong", "M18 26 l6 -3 l5 4 l6 -3 l6 3"], ["dash", "M14 20 q16 -10 32 0 M14 32 q16 8 32 0"]],
  "crack_where.secondary": [
    ["line", "M6 42 H58 M6 36 H22 V12 H42 V20 H30 V36 H58"],
    ["wrong", "M22 24 l4 -2 l2 3 l3 -2"],
  ],
  "crack_where.weld": [
    ["line", "M4 34 H60 M4 44 H60 M26 34 V6 H36 V34"],
    ["thin", BEAD.replaceAll("30", "34")],
    ["wrong", "M14 38 l5 -6 l3 4 l4 -7 l4 5"],
  ],
  "crack_where.parent": [...PLATE, ["wrong", "M10 12 l9 8 l-2 6 l12 2 l4 8 l14 -2 l8 5"]],
  "crack_length.short": [
    ["wrong", "M22 16 l5 -4 l4 5 l6 -4"],
    ["line", "M12 34 H52 M12 30 V38 M52 30 V38"],
    ["thin", "M22 32 V36 M32 32 V36 M42 32 V36"],
  ],
  "crack_length.long": [
    ["wrong", "M4 18 l8 -6 l7 7 l9 -7 l8 7 l9 -7 l8 7 l7 -5"],
    ["line", "M12 34 H52 M12 30 V38 M52 30 V38"],
    ["thin", "M22 32 V36 M32 32 V36 M42 32 V36"],
  ],
  "fastener_state.mark-moved": [
    ["line", hex(32, 24, 15)],
    ["thin", dot(32, 24, 7)],
    ["line", "M32 2 V9"],
    ["wrong", "M39 11 L36 17"],
  ],
  "fastener_state.loose": [
    ["line", "M6 40 H58"],
    ["line", "M18 30 L44 20 L48 30 L22 40 Z"],
    ["thin", "M30 26 L26 14 M38 23 L34 11"],
    ["wrong", "M12 26 q-4 -8 4 -13 M52 14 q6 5 2 13"],
  ],
  "fastener_state.missing": [
    ["dash", hex(32, 24, 16)],
    ["wrong", dot(32, 24, 7)],
  ],
  "fastener_share.one": ring(8, [1]),
  "fastener_share.several": ring(8, [1, 4, 6]),
  "fastener_share.fifth": ring(8, [1, 2]),
  "bend.dent": [
    ["line", "M4 16 H24 M40 16 H60 M4 32 H60 M4 16 V32 M60 16 V32"],
    ["wrong", "M24 16 q8 9 16 0"],
  ],
  "bend.bent": [
    ["dash", "M4 20 H60"],
    ["wrong", "M4 20 H24 Q40 22 58 38"],
    ["line", "M4 30 H22 Q36 32 52 46"],
  ],
  "bend.failed": [
    ["dash", "M4 14 H60"],
    ["wrong", "M4 14 H30 L40 24 L26 44"],
    ["line", "M4 22 H26 L30 26 L18 42"],
  ],
  "cut_depth.cover": [...HOSE, ["wrong", "M28 16 l4 5 l4 -5"]],
  "cut_depth.braid": [
    ...HOSE,
    ["thin", "M22 18 l10 12 M28 18 l10 12 M34 18 l8 10 M42 18 l-10 12 M36 18 l-10 12 M30 18 l-8 10"],
    ["wrong", "M18 16 q14 4 28 0"],
  ],
  "cut_depth.through": [
    ["line", "M4 16 H26 M4 32 H22 M38 16 H60 M42 32 H60"],
    ["wrong", "M26 16 l-4 6 l4 4 l-4 6 M38 16 l4 6 l-4 4 l4 6"],
  ],
  "works.weak": [
    ["thin", "M4 40 H60 M4 40 V6"],
    ["dash", "M8 12 H58"],
    ["wrong", "M8 36 Q20 26 32 29 T58 28"],
  ],
  "works.intermittent": [
    ["thin", "M4 40 H60 M4 40 V6"],
    ["wrong", "M8 36 V16 H18 V36 M30 36 V16 H36 V36 M52 36 V16 H58 V36"],
    ["dash", "M18 36 H30 M36 36 H52"],
  ],
  "works.dead": [
    ["thin", "M4 40 H60 M4 40 V6"],
    ["dash", "M8 16 H58"],
    ["wrong", "M8 36 H58"],
  ],
  "dirt.light": [
    ...PLATE,
    ["wrongFill", dot(18, 34, 2.4)],
    ["wrongFill", dot(28, 36, 1.8)],
    ["wrongFill", dot(44, 33, 2.4)],
    ["wrongFill", dot(36, 28, 1.6)],
  ],
  "dirt.heavy": [...PLATE, ["wrongFill", "M6 40 L8 24 Q16 14 26 20 Q36 12 46 20 Q54 20 58 28 V40 Z"]],
  "low_level.low": [...GLASS, ["wrongFill", box(25, 37, 14, 6)]],
  "low_level.very-low": [...GLASS, ["wrong", "M26 42 H38"]],
  "over_level.over": [...GLASS, ["wrongFill", box(25, 8, 14, 35)]],
  "dirt_in_fluid.trace": [
    ...JAR,
    ["thin", "M23 16 H41"],
    ["wrongFill", dot(28, 40, 1.8)],
    ["wrongFill", dot(34, 38, 1.6)],
    ["wrongFill", dot(38, 41, 1.4)],
  ],
  "dirt_in_fluid.clear-water": [
    ...JAR,
    ["thin", "M23 14 H41"],
    ["wrong", "M23 30 H41"],
    ["wrongFill", "M23 31 H41 V40 q0 3 -3 3 H26 q-3 0 -3 -3 Z"],
  ],
  "dirt_in_fluid.milky": [
    ...JAR,
    ["wrong", "M23 14 q4 -4 6 0 q3 -4 6 0 q3 -4 6 0"],
    ["wrong", "M24 22 H40 M24 28 H40 M24 34 H40 M26 40 H38"],
  ],
  "legible.faded": [...SIGN, ["dash", "M32 16 V30 M32 35 V37"]],
  "legible.gone": [
    ["dash", "M32 4 L60 42 H4 Z"],
    ["wrong", "M24 22 L40 38 M40 22 L24 38"],
  ],
  "missing_part.loose": [
    ["dash", box(14, 8, 36, 28)],
    ["line", dot(16, 10, 2.5)],
    ["wrong", "M16 10 L50 20 L42 46 L8 36 Z"],
  ],
  "missing_part.absent": [
    ["dash", box(12, 8, 40, 32)],
    ["wrong", dot(16, 12, 2)],
    ["wrong", dot(48, 12, 2)],
    ["wrong", dot(16, 36, 2)],
    ["wrong", dot(48, 36, 2)],
  ],
  "date.soon": [
    ["line", "M10 10 H54 V42 H10 Z M10 18 H54 M20 6 V13 M44 6 V13"],
    ["wrong", dot(46, 34, 4)],
  ],
  "date.past": [
    ["line", "M10 10 H54 V42 H10 Z M10 18 H54 M20 6 V13 M44 6 V13"],
    ["wrong", "M22 23 L42 38 M42 23 L22 38"],
  ],
  "change.added": [
    ["line", "M6 40 V10 H58 V40 M6 18 H58"],
    ["wrong", box(24, 18, 16, 14)],
  ],
  "change.drilled": [
    ["line", "M6 40 V10 H58 V40 M6 20 H58"],
    ["wrong", dot(24, 15, 3)],
    ["wrong", dot(40, 15, 3)],
  ],
  "broken.chip": [...PANE, ["wrong", "M40 18 l-4 -4 M40 18 l5 -3 M40 18 l1 6 M40 18 l-5 3"]],
  "broken.cracked": [...PANE, ["wrong", "M14 10 l12 10 l4 10 l12 2 l10 9"]],
  "broken.view-lost": [
    ...PANE,
    ["wrong", "M32 24 L14 8 M32 24 L50 8 M32 24 L9 34 M32 24 L55 34 M32 24 L30 42 M22 16 L42 16 L46 30 L31 36 L18 30 Z"],
  ],
  "abnormal.noise": [
    ["line", dot(16, 24, 8)],
    ["wrong", "M30 16 q6 8 0 16 M38 11 q10 13 0 26 M46 6 q14 18 0 36"],
  ],
  "abnormal.heat": [
    ["line", "M8 42 H56"],
    ["wrong", "M18 36 q-6 -8 0 -14 q6 -7 0 -15 M32 36 q-6 -8 0 -14 q6 -7 0 -15 M46 36 q-6 -8 0 -14 q6 -7 0 -15"],
  ],
  "abnormal.smoke": [
    ["line", box(22, 34, 20, 10)],
    ["wrong", "M32 34 q-10 -4 -4 -11 q-12 -3 -2 -12 q4 -8 12 -3 q10 2 4 10 q8 8 -4 9"],
  ],
  "tension.off": [...TRACK, ["wrong", "M12 18 Q32 26 52 18"]],
  "tension.far": [...TRACK, ["wrong", "M12 18 Q32 44 52 18"]],
  "person_near.hazard": [
    ["line", "M8 6 H58 M8 12 H58"],
    ["line", "M6 44 H24 V34 H6 Z M18 34 L30 20"],
    ["wrong", "M30 20 L38 13 M42 22 l-5 -6 l-6 1"],
  ],
  "person_near.people": [
    ["dash", "M32 4 a20 20 0 1 1 -0.1 0"],
    ["wrongFill", dot(32, 14, 4.4)],
    ["wrong", "M32 19 V32 M32 32 L26 42 M32 32 L38 42 M24 24 H40"],
  ],
  "pool.drips": [
    ["line", "M6 12 H58 L52 22 H12 Z"],
    ["wrongFill", drop(26, 24, 2.6)],
    ["wrongFill", dot(26, 40, 2.4)],
    ["wrongFill", dot(36, 42, 2)],
    ["wrongFill", dot(42, 38, 1.8)],
    ["thin", "M6 45 H58"],
  ],
  "pool.pool": [
    ["line", "M6 6 H58 L52 14 H12 Z"],
    ["wrongFill", "M6 38 Q10 28 26 31 Q40 25 56 33 Q62 42 46 44 Q22 48 6 38 Z"],
    ["thin", "M20 20 q-3 4 0 7 q5 1 6 -3 q1 -5 -6 -4"],
  ],
  "lean.slight": [
    ["line", "M4 42 H60"],
    ["dash", box(16, 12, 32, 26)],
    ["wrong", "M15 15 L46 11 L50 37 L18 41 Z"],
  ],
  "lean.much": [
    ["line", "M4 30 L60 46"],
    ["wrong", "M20 4 L50 14 L41 38 L12 29 Z"],
  ],
  "tyre_pressure.soft": [
    ["line", dot(32, 22, 7)],
    ["wrong", "M22 40 A20 20 0 1 1 42 40 Z"],
    ["thin", "M4 42 H60"],
  ],
  "tyre_pressure.low": [
    ["line", dot(32, 22, 7)],
    ["wrong", "M16 40 Q10 30 14 18 A20 18 0 0 1 50 18 Q54 30 48 40 Z"],
    ["thin", "M4 42 H60"],
  ],
  "tyre_pressure.run-flat": [
    ["line", dot(32, 26, 7)],
    ["wrong", "M8 41 Q2 34 14 28 A19 18 0 0 1 50 28 Q62 34 56 41 Z"],
    ["thin", "M4 43 H60"],
  ],
  "tyre_wall.rubber": [
    ["line", `${TYRE} a20 20 0 1 1 -20 -20`],
    ["thin", dot(32, 24, 9)],
    ["wrong", "M44 12 l5 4"],
  ],
  "tyre_wall.cord": [
    ["line", `${TYRE} a20 20 0 1 1 -20 -20`],
    ["thin", dot(32, 24, 9)],
    ["wrong", "M40 8 l8 12 M40 13 l6 -3 M42 17 l7 -3"],
  ],
  "tyre_wall.bulge": [
    ["line", "M46 10 A20 20 0 1 0 50 34"],
    ["thin", dot(32, 24, 9)],
    ["wrong", "M46 10 Q66 18 50 34"],
  ],
  "fitted.fitted": [...LUG, ["wrong", "M40 4 V44 M34 4 H46"], ["wrongFill", dot(40, 44, 3)]],
  "wedged.stone": [
    ["line", "M8 6 H24 V42 H8 Z M40 6 H56 V42 H40 Z"],
    ["thin", "M8 12 H24 M8 20 H24 M8 28 H24 M8 36 H24 M40 12 H56 M40 20 H56 M40 28 H56 M40 36 H56"],
    ["wrongFill", "M25 22 L31 16 L39 20 L39 30 L32 34 L25 30 Z"],
  ],
  "breaker.once": [...BREAKER, ["line", "M28 26 H36 V36 H28 Z"], ["wrong", "M50 32 V14 M45 19 L50 13 L55 19"]],
  "breaker.again": [
    ...BREAKER,
    ["line", "M28 26 H36 V36 H28 Z"],
    ["wrong", "M50 12 V34 M45 29 L50 35 L55 29 M12 34 V12 M7 17 L12 11 L17 17"],
  ],
  "breaker.bridged": [...BREAKER, ["line", "M28 14 H36 V24 H28 Z"], ["wrong", "M32 2 Q4 4 10 24 Q12 46 32 46"]],
  "corrosion.bloom": [
    ["line", "M24 40 V22 H40 V40 M12 40 H52"],
    ["line", dot(32, 16, 6)],
    ["wrong", "M20 20 l-4 -3 M22 14 l-5 -1 M44 20 l4 -3 M42 14 l5 -1 M32 7 V3 M25 9 l-3 -4 M39 9 l3 -4"],
  ],
  "corrosion.eaten": [
    ["line", "M24 40 V24 M40 40 V30 M12 40 H52"],
    ["wrong", "M24 24 l4 -5 l2 5 l4 -6 l3 7 l3 -2 v7"],
    ["wrongFill", dot(20, 34, 2)],
    ["wrongFill", dot(46, 35, 1.8)],
  ],
};
