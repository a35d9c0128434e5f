/**
 * What each reading is of, as a small drawing of 48 by 40: outlines by default; `f` filled with the fluid's colour, `m` the
 * part that is read, `w` what is wrong if it is missed.
 */
export type Sign = readonly (readonly [kind: "" | "f" | "m" | "w" | "t", d: string])[];

const ring = (x: number, y: number, r: number) => `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
const tyre = (x: number, y: number, r: number): Sign => [
  ["", ring(x, y, r)],
  ["", ring(x, y, r * 0.5)],
];
const tank = (level: number): Sign => [
  ["f", `M8 ${level}H40V36H8Z`],
  ["", "M8 6H40V36H8Z"],
];
const dial = (x: number): Sign => [
  ["", "M6 32A18 18 0 0 1 42 32Z"],
  ["m", `M24 32L${x} 18`],
];
const dipstick: Sign = [
  ["f", "M21 24H27V38H21Z"],
  ["", "M24 2V38M18 2H30M17 16H31M17 32H31"],
];
const thermometer = (top: number): Sign => [
  ["f", `M9 ${top}H13V30H9Z`],
  ["", "M8 28V6A3 3 0 0 1 14 6V28A6 6 0 1 1 8 28Z"],
];
const watch: Sign = [
  ["", ring(24, 23, 14)],
  ["m", "M24 23V13M24 23L31 27"],
  ["", "M20 5H28M24 5V9"],
];
const drop = (x: number, y: number, s = 1) =>
  `M${x} ${y}C${x - 8 * s} ${y + 9 * s} ${x - 6 * s} ${y + 16 * s} ${x} ${y + 16 * s}C${x + 6 * s} ${y + 16 * s} ${x + 8 * s} ${y + 9 * s} ${x} ${y}Z`;

export const SIGNS: Record<string, Sign> = {
  "tyre-pressure": [...tyre(16, 24, 13), ["m", "M32 30A9 9 0 0 1 46 30M39 30L43 23"], ["t", "M29 24H33"]],
  "tyre-set": [...tyre(12, 11, 8), ...tyre(36, 11, 8), ...tyre(12, 30, 8), ["w", ring(36, 30, 8)], ["w", ring(36, 30, 4)]],
  "tyre-loss": [...tyre(18, 22, 14), ["m", "M36 12V32M31 27L36 32L41 27"]],
  "wheel-nuts": [
    ["", ring(24, 20, 17)],
    ...[0, 1, 2, 3, 4, 5].map(
      (n) => [n === 1 ? "w" : "m", ring(24 + 10 * Math.cos((n * Math.PI) / 3), 20 + 10 * Math.sin((n * Math.PI) / 3), 3)] as const,
    ),
  ],
  "air-restriction": [
    ["", "M6 8H26V34H6Z"],
    ["t", "M10 8V34M14 8V34M18 8V34M22 8V34"],
    ["m", "M46 20H30M35 15L30 20L35 25"],
  ],
  "belt-deflection": [
    ["", ring(10, 14, 7)],
    ["", ring(38, 14, 7)],
    ["m", "M10 7H38M10 21L24 30L38 21"],
    ["t", "M24 34V40M21 37L24 34L27 37"],
  ],
  "tank-volume": [...tank(20), ["m", "M4 20V36M1 20H7M1 36H7"]],
  "engine-oil": dipstick,
  "transmission-oil": [...dipstick, ["m", ring(39, 28, 6)], ["t", "M39 20V22M39 34V36M31 28H33M45 28H47"]],
  "coolant-level": [
    ["f", "M16 18H32V36H16Z"],
    ["", "M16 10H32V36H16ZM20 4H28V10"],
    ["m", "M11 14H37M11 30H37"],
  ],
  "plug-level": [
    ["f", "M6 22H30V36H6Z"],
    ["", "M6 6H30V36H6Z"],
    ["m", "M30 18H38V26H30Z"],
    ["f", drop(41, 28, 0.5)],
  ],
  consumption: [
    ["f", drop(12, 6)],
    ["", drop(12, 6)],
    ["", ring(34, 20, 11)],
    ["m", "M34 20V12M34 20L40 23"],
  ],
  "battery-cells": [
    ["", "M4 12H44V36H4Z"],
    ["t", "M12 12V36M20 12V36M28 12V36M36 12V36"],
    ["", "M9 12V7M39 12V7"],
    ["m", "M14 30V20M22 30V20M30 30V26"],
  ],
  "battery-volts": [
    ["", "M4 14H24V36H4Z"],
    ["", "M9 14V9M19 14V9"],
    ["m", "M28 32A9 9 0 0 1 46 32ZM37 32L42 25"],
  ],
  "service-brake": [...tyre(12, 26, 9), ["m", "M24 34H44M28 30L24 34L28 38M40 30L44 34L40 38"], ["t", "M44 10V26"]],
  "park-brake": [
    ["", "M4 36L44 18V36Z"],
    ["", "M16 22L30 16L32 22L19 28Z"],
    ["m", "M10 26L14 34L20 31"],
  ],
  "stationary-brake": [
    ...tyre(14, 24, 11),
    ["m", "M4 10A17 17 0 0 1 24 10"],
    ...dial(0).slice(0, 0),
    ["", "M30 32A9 9 0 0 1 46 32Z"],
    ["m", "M38 32L43 25"],
  ],
  "brake-accumulator": [
    ["", "M14 6C22 6 22 34 14 34C6 34 6 6 14 6Z"],
    ["t", "M8 20H20"],
    ["m", "M30 34V26M36 34V22M42 34V18"],
  ],
  "coolant-freeze": [
    ["m", "M24 4V36M10 12L38 28M38 12L10 28"],
    ["t", "M20 7L24 11L28 7M20 33L24 29L28 33"],
  ],
  "coolant-boil": [...thermometer(10), ["m", "M24 34C20 28 28 24 24 18C20 12 28 10 26 6M38 34C34 28 42 24 38 18C34 12 42 10 40 6"]],
  "fuel-shift": [...tank(24), ["m", "M44 10V30M40 26L44 30"], ["", "M18 6V2H30V6"]],
  "spray-water": [
    ["", "M6 10H42V16H6Z"],
    ["f", drop(12, 20, 0.8)],
    ["f", drop(24, 20, 0.8)],
    ["f", drop(36, 20, 0.8)],
  ],
  "fuel-water": [
    ["", "M12 4H36V28L24 38L12 28Z"],
    ["w", "M15 28H33L24 36Z"],
  ],
  "exhaust-fluid": [...tank(22), ["m", "M18 29H30M24 23V35"]],
  "hydraulic-glass": [
    ["f", "M16 22H32V34H16Z"],
    ["", "M16 6H32V34H16Z"],
    ["m", "M12 14H16M12 28H16"],
    ["t", "M36 8V34"],
  ],
  "oil-grade": [
    ["f", drop(14, 6)],
    ["", drop(14, 6)],
    ["m", "M36 6V34M26 13L46 27M46 13L26 27"],
  ],
  "oil-viscosity": [
    ["f", "M10 6H38V12C28 12 26 20 26 30C26 36 22 36 22 30C22 20 20 12 10 12Z"],
    ["", "M10 6H38"],
  ],
  "leak-drops": [
    ["", "M6 8H42"],
    ["f", drop(16, 10, 0.8)],
    ["f", drop(30, 16, 0.8)],
    ["m", "M10 37H40"],
  ],
  "leak-mark": [
    ["f", "M6 28C10 20 24 24 30 20C40 16 46 28 38 32C28 37 10 36 6 28Z"],
    ["m", "M6 8H38M6 5V11M38 5V11"],
  ],
  "leak-parked": [...tank(24), ["m", "M8 14H40M24 14V24M20 20L24 24L28 20"]],
  "travel-alarm": [
    ["", "M4 16H12L22 8V32L12 24H4Z"],
    ["m", "M28 14A9 9 0 0 1 28 26M33 9A16 16 0 0 1 33 31M38 4A24 24 0 0 1 38 36"],
  ],
  "detection-stop": [
    ["", "M4 32V20H16V14H24V32Z"],
    ["", ring(42, 12, 4)],
    ["", "M42 16V26L38 34M42 26L46 34"],
    ["m", "M26 24H36M30 20L26 24L30 28"],
  ],
  slope: [
    ["", "M4 36H44L4 18Z"],
    ["m", "M30 36A16 16 0 0 0 28 29"],
    ["t", "M14 10H34"],
    ["m", ring(28, 10, 3)],
  ],
  dark: [
    ["", "M30 6A15 15 0 1 0 42 26A12 12 0 0 1 30 6Z"],
    ["m", "M36 6V10M34 8H38M43 14V18M41 16H45"],
  ],
  "warm-up": [...thermometer(22), ["m", "M28 34V12M23 17L28 12L33 17"], ["t", "M38 34C36 30 40 28 38 24C36 20 40 18 38 14"]],
  "cool-down": [...thermometer(12), ["m", "M30 10V32M25 27L30 32L35 27"], ["t", "M42 10V32"]],
  cranking: [...watch.map(([k, d]) => [k, d] as const), ["t", "M6 38H42"]],
  "service-due": [
    ["m", "M10 34L28 16M28 16A8 8 0 1 0 38 6L34 12L28 10"],
    ["t", "M34 34H46M34 28H46"],
  ],
  grease: [
    ["", "M4 16H26V26H4Z"],
    ["", "M26 21H34"],
    ["f", ring(39, 21, 4)],
    ["m", "M8 26L4 38"],
  ],
  wear: [
    ["t", "M6 30V8H20C34 8 44 18 44 30Z"],
    ["", "M6 30V16H16C26 16 34 22 34 30Z"],
    ["m", "M26 12L34 8"],
  ],
  "track-sag": [
    ["", ring(9, 12, 6)],
    ["", ring(39, 12, 6)],
    ["", "M9 6H39"],
    ["m", "M9 18C18 32 30 32 39 18"],
    ["t", "M24 20V28"],
  ],
  "cylinder-drift": [
    ["", "M4 14H26V26H4Z"],
    ["", "M26 20H40"],
    ["m", "M44 10V30M40 26L44 30"],
    ["t", ring(44, 6, 3)],
  ],
};
