import { SIGNS, type Sign } from "../readings/signs";

/** What each question of "How we do it here" is about, and what its choices look like where that can be drawn. */
const round = (d: string): Sign => [
  ["t", "M14 12H34V30H14Z"],
  ["m", d],
];
const parked = (arm: string): Sign => [
  ["", "M4 38H18A3 3 0 0 0 18 32H4A3 3 0 0 0 4 38ZM3 32V22H17V32ZM11 22V14H16L17 22"],
  ["m", arm],
  ["t", "M1 40H47"],
];
const tap: Sign = [
  ["", "M6 14H30V22H6ZM30 12H42V24H30Z"],
  ["f", "M36 26C32 31 33 35 36 35C39 35 40 31 36 26Z"],
];
const hand: Sign = [
  [
    "",
    "M12 36V24C12 20 16 20 16 24V10C16 7 20 7 20 10V8C20 5 24 5 24 8V10C24 7 28 7 28 10V14C28 11 32 11 32 14V28C32 34 28 38 22 38C16 38 14 38 12 36Z",
  ],
];
const two: Sign = [
  ["", "M14 9a5 5 0 1 0 .1 0M14 19V30M8 23L14 20L20 23M9 38L14 30L19 38"],
  ["m", "M34 9a5 5 0 1 0 .1 0M34 19V30M28 23L34 20L40 23M29 38L34 30L39 38"],
];
const clock: Sign = [
  ["", "M24 6a15 15 0 1 0 .1 0"],
  ["m", "M24 21V11M24 21L32 25"],
];

export const SCHOOL_SIGNS: Record<string, Sign> = {
  grease: SIGNS.grease!,
  "cool-down": SIGNS["cool-down"]!,
  "excavator-parked": parked("M15 26L28 14L40 30M36 30H44L42 38"),
  circle: [
    ["", "M24 8a13 13 0 1 0 .1 0M24 15a6 6 0 1 0 .1 0"],
    ["m", "M37 21L46 16M37 21L46 26"],
  ],
  "air-element": SIGNS["air-restriction"]!,
  fuel: SIGNS["fuel-shift"]!,
  "battery-water": SIGNS["battery-cells"]!,
  "oil-read": SIGNS["engine-oil"]!,
  "weeping-coupling": tap,
  "leaks-by-hand": hand,
  "wheel-nuts": SIGNS["wheel-nuts"]!,
  "walk-end": round("M8 8H40V34H8Z"),
  "way-round": round("M8 20V7H40V35H8V26M4 30L8 25L12 30"),
  "how-often": clock,
  "re-check": two,
};
export const CHOICE_SIGNS: Record<string, Sign> = {
  "excavator-parked/rods-in": parked("M15 26L32 34L46 30M43 30H47V38"),
  "excavator-parked/tucked": parked("M15 26L28 12L30 30M24 34H34L32 40"),
  "way-round/clockwise": round("M8 24V6H40V36H16M20 32L15 36L20 40"),
  "way-round/anticlockwise": round("M40 24V6H8V36H32M28 32L33 36L28 40"),
  "way-round/shortest": round("M8 34V8H40M36 4L41 8L36 12"),
  "air-element/clean": SIGNS["air-restriction"]!,
  "oil-read/stick": SIGNS["engine-oil"]!,
  "leaks-by-hand/card": [
    ["", "M14 6H34V36H14Z"],
    ["w", "M6 36L42 6"],
  ],
};
