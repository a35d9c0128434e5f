/**
 * One drawing for each step of a card, put together from a few signs. A drawing is lines with their kind: b an outline,
 * l a limb, h something thick, t thin, m a way that is gone, n what is not done, g what is good, f fire, o a fluid.
 */
type Line = readonly [kind: string, d: string];
type Piece = readonly Line[];
export type Drawing = readonly { piece: Piece; x: number; y: number; scale: number; turn: number }[];

const ring = (x: number, y: number, r: number) => `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;

/** An excavator from the side, 70 wide, standing on 0. */
const machine: Piece = [
  ["h", "M2 -7H42"],
  ["b", "M4 -2H40A5 5 0 0 0 40 -12H4A5 5 0 0 0 4 -2Z"],
  ["b", "M6 -12V-26H40V-12Z"],
  ["b", "M24 -26V-42H36L40 -26Z"],
  ["l", "M38 -22L54 -44L66 -24"],
  ["b", "M60 -24H72L68 -12Z"],
];
const toolDown: Piece = [
  ...machine.slice(0, 4),
  ["l", "M38 -22L56 -34L66 -14"],
  ["b", "M60 -14H74L70 -1Z"],
  ["m", "M84 -40V-8M78 -16L84 -8L90 -16"],
];
const ground: Piece = [["t", "M4 0H116"]];
const tips: Piece = [["m", "M-8 -22A34 34 0 0 1 30 -4M29 -14L30 -4L20 -6"]];
const fuel: Piece = [["o", "M0 0C-16 -12 -10 -24 0 -36C10 -24 16 -12 0 0Z"]];
/** A cab seen from the side with somebody in it, 56 wide. */
const cab: Piece = [
  ["b", "M0 0V-56H40L56 -24V0Z"],
  ["l", "M14 -6V-24H26"],
  ["b", ring(20, -44, 6)],
  ["l", "M20 -38L18 -16H32L34 -2M20 -32L34 -26"],
];
const belt: Piece = [["g", "M12 -36L30 -18"]];
const handsOn: Piece = [["g", ring(35, -26, 5)]];
const person: Piece = [
  ["b", ring(0, -40, 6)],
  ["l", "M0 -34V-16M0 -16L-7 0M0 -16L7 0M0 -30L-9 -20M0 -30L9 -20"],
];
const walker: Piece = [
  ["b", ring(2, -40, 6)],
  ["l", "M1 -34L-2 -17M-2 -17L8 -8L12 0M-2 -17L-8 -8L-16 -4M0 -30L10 -22M0 -30L-10 -24"],
];
const ducked: Piece = [
  ["b", ring(14, -26, 6)],
  ["l", "M9 -22L-8 -14M-8 -14L-2 -6L-6 0M-8 -14L-16 -6L-22 -2M6 -20L16 -10"],
];
const feetTogether: Piece = [
  ["b", ring(0, -42, 6)],
  ["l", "M0 -36V-18M-2 -18V-4M2 -18V-4M0 -32L-10 -40M0 -32L10 -40"],
  ["g", "M-5 -1H6"],
];
const away: Piece = [["m", "M0 0H30M22 -7L30 0L22 7"]];
const no: Piece = [["n", "M0 0L26 -26M26 0L0 -26"]];
const yes: Piece = [["g", "M0 -10L9 0L26 -22"]];
/** The key, turned back to nought. */
const keyOff: Piece = [
  ["b", ring(0, 0, 17)],
  ["h", "M0 -11V10"],
  ["m", "M20 -12A23 23 0 0 0 2 -23M9 -28L2 -23L8 -17"],
];
const isolator: Piece = [
  ["b", "M-16 -16H16V16H-16Z"],
  ["h", "M-8 8L8 -8"],
  ["m", "M22 -6V10M16 3L22 10L28 3"],
];
const flame: Piece = [["f", "M0 0C-16 -10 -9 -24 0 -38C3 -26 14 -20 9 -6C7 -2 4 0 0 0Z"]];
const smallFlame: Piece = [["f", "M0 0C-9 -6 -5 -14 0 -22C2 -15 8 -12 5 -4Z"]];
const smoke: Piece = [["t", "M0 0C-12 -8 8 -14 -3 -24C-10 -32 6 -36 0 -44M14 -2C4 -10 22 -16 12 -26C6 -33 18 -36 14 -42"]];
const extinguisher: Piece = [
  ["h", "M0 0V-24"],
  ["b", "M-7 0V-26A7 7 0 0 1 7 -26V0Z"],
  ["l", "M0 -33V-38H12L20 -30"],
];
const spray: Piece = [["t", "M0 0L18 -6M0 2L19 4M0 4L16 13"]];
const phone: Piece = [
  ["b", "M-9 -36H9V0H-9Z"],
  ["t", "M-3 -4H3"],
  ["m", "M15 -32A12 12 0 0 1 15 -14M21 -37A20 20 0 0 1 21 -9"],
];
const barrier: Piece = [
  ["l", "M-18 0V-26M18 0V-26"],
  ["n", "M-22 -20H22"],
];
const wire: Piece = [
  ["h", "M0 0H112"],
  ["t", "M2 -8V10M110 -8V10"],
  ["f", "M58 4L50 16H56L52 26L64 12H58L62 4Z"],
];
const distance: Piece = [["m", "M0 0H48M7 -6L0 0L7 6M41 -6L48 0L41 6"]];
const bank: Piece = [["b", "M0 0L26 -30L60 -36V0Z"]];
const chocks: Piece = [["h", "M-8 0L-4 -9H2V0ZM42 0V-9H48L52 0Z"]];
const lever: Piece = [
  ["b", "M-14 0V-10H14V0Z"],
  ["l", "M0 -10L10 -38"],
  ["b", ring(11, -41, 5)],
  ["m", "M-8 -38A20 20 0 0 0 -18 -18M-23 -26L-18 -18L-10 -23"],
];
const wheel: Piece = [
  ["b", ring(0, 0, 18)],
  ["l", "M0 -2L-14 10M0 -2L14 10M0 -2V-17"],
];
const redButton: Piece = [
  ["b", "M-18 0V-10H18V0Z"],
  ["f", "M-11 -10C-11 -22 11 -22 11 -10Z"],
  ["m", "M0 -50V-28M-6 -35L0 -28L6 -35"],
];
const redLamp: Piece = [
  ["f", ring(0, 0, 13)],
  ["t", "M0 -19V-26M17 -9L23 -13M-17 -9L-23 -13"],
];
const page: Piece = [
  ["b", "M-16 -20H16V20H-16Z"],
  ["t", "M-9 -10H9M-9 -2H9M-9 6H4"],
];
const stick: Piece = [
  ["l", "M0 -40V0"],
  ["b", "M-7 -40H7"],
  ["o", "M-3 -14H3V0H-3Z"],
  ["t", "M-8 -22H8M-8 -4H8"],
];
const spanner: Piece = [["h", "M-14 14L8 -8M8 -8A9 9 0 1 0 17 -17L12 -10ZM-14 14L-17 17"]];
const gauge: Piece = [
  ["b", "M-22 0A22 22 0 0 1 22 0Z"],
  ["f", "M14 0A14 14 0 0 0 9 -11L14 -17A22 22 0 0 1 22 0Z"],
  ["l", "M0 0L14 -10"],
];
const wind: Piece = [["t", "M0 0H22A5 5 0 1 0 17 -6M4 9H30A5 5 0 1 1 25 15M0 18H16"]];
const cap: Piece = [
  ["b", "M-18 0V-14H18V0Z"],
  ["b", "M-9 -14V-22H9V-14Z"],
  ["f", "M-6 -26C-12 -34 2 -36 -4 -44M6 -26C0 -34 14 -36 8 -44"],
];
const grille: Piece = [
  ["b", "M-18 -18H18V18H-18Z"],
  ["t", "M-18 -9H18M-18 0H18M-18 9H18M-9 -18V18M0 -18V18M9 -18V18"],
];
const hammer: Piece = [
  ["l", "M0 0L18 -22"],
  ["h", "M10 -30L26 -16"],
];
const glass: Piece = [
  ["b", "M0 0V-44H44V0Z"],
  ["n", "M2 -42L20 -26M2 -42L24 -40M2 -42L6 -22"],
];
const raisedArms: Piece = [
  ["b", "M4 0A7 7 0 1 0 4 -14A7 7 0 1 0 4 0M40 0A7 7 0 1 0 40 -14A7 7 0 1 0 40 0"],
  ["b", "M-4 -12H48V-26H30V-44H14V-26H-4Z"],
  ["l", "M10 -22L60 -50"],
  ["b", "M58 -56H76L72 -42H62Z"],
];
const valve: Piece = [
  ["b", "M-16 -8L16 8V-8L-16 8Z"],
  ["l", "M0 0V-18M-10 -18H10"],
  ["m", "M22 -12V12M16 5L22 12L28 5"],
];
const prop: Piece = [["g", "M44 -10L56 -44"]];
const hand: Piece = [
  [
    "b",
    "M0 0V-18C0 -24 8 -24 8 -18V-30C8 -36 15 -36 15 -30V-32C15 -38 22 -38 22 -32V-28C22 -34 29 -34 29 -28V-8C29 4 22 8 14 8C6 8 2 5 0 0Z",
  ],
  ["f", ring(15, -10, 3)],
];
const cross: Piece = [
  ["b", "M-20 -20H20V20H-20Z"],
  ["f", "M-5 -14H5V-5H14V5H5V14H-5V5H-14V-5H-5Z"],
];
const says: Piece = [
  ["b", "M-22 -30H26V-4H4L-6 6V-4H-22Z"],
  ["o", "M2 -9C-6 -14 -2 -20 2 -26C6 -20 10 -14 2 -9Z"],
];
const clockSign: Piece = [
  ["b", ring(0, 0, 18)],
  ["l", "M0 -10V0L9 6"],
];
const mask: Piece = [
  ["b", ring(0, 0, 15)],
  ["h", "M-8 4H8"],
  ["b", "M-9 2H9V14H-9Z"],
  ["t", "M-15 -2H-9M9 -2H15"],
];
const ladder: Piece = [["l", "M0 0V-50M16 0V-50M0 -8H16M0 -20H16M0 -32H16M0 -44H16"]];
const cord: Piece = [
  ["t", "M0 0V-22"],
  ["h", "M-8 2H8"],
  ["m", "M16 -20V2M10 -5L16 2L22 -5"],
];
const meterSign: Piece = [
  ["b", "M-14 -20H14V20H-14Z"],
  ["t", "M-8 -14H8V-2H-8Z"],
  ["g", "M-7 8L-2 13L8 3"],
];
const people: Piece = [...person, ...shift(person, 18), ...shift(person, 36)];
function shift(piece: Piece, by: number): Piece {
  // Every drawn person begins with a move to a place: all of its moves are put aside.
  return piece.map(([kind, d]) => [kind, d.replace(/([ML])(-?[\d.]+)/g, (_, c: string, x: string) => `${c}${Number(x) + by}`)] as const);
}

const put = (piece: Piece, x: number, y: number, scale = 1, turn = 0) => ({ piece, x, y, scale, turn });
/** The ground is at 84 of 120 by 96. */
const G = 84;

export const DRAWINGS: Record<string, readonly Drawing[]> = {
  fire: [
    [put(toolDown, 10, G), put(keyOff, 24, 24, 0.8)],
    [put(lever, 36, G), put(fuel, 84, 66, 1.2), put(no, 71, 68)],
    [put(machine, 4, G, 0.8), put(smoke, 14, 46, 0.8), put(walker, 92, G), put(away, 78, 30)],
    [put(smallFlame, 16, G), put(spray, 30, 66, -0.7), put(extinguisher, 44, G), put(person, 68, G), put(away, 84, 56)],
    [put(phone, 28, G - 10), put(barrier, 84, G), put(person, 108, G, 0.8)],
  ],
  rollover: [
    [put(ground, 0, G), put(machine, 22, 76, 0.85, -28), put(tips, 60, 40), put(walker, 102, 58, 0.75), put(no, 90, 62)],
    [put(cab, 30, G), put(belt, 30, G), put(handsOn, 30, G)],
    [put(ground, 0, G), put(machine, 52, G - 4, 0.9, -90), put(clockSign, 96, 34)],
    [put(keyOff, 34, 48, 1.1), put(isolator, 84, 48)],
    [put(ground, 0, G), put(machine, 56, G - 4, 0.9, -90), put(away, 60, 34, 0.9), put(walker, 100, G, 0.9)],
  ],
  line: [
    [put(wire, 4, 12), put(cab, 30, G, 0.9), put(no, 88, G, 0.9)],
    [put(wire, 4, 12), put(machine, 0, G, 0.6), put(distance, 48, 70), put(person, 108, G, 0.8)],
    [put(wire, 4, 12), put(machine, 44, G, 0.8), put(away, 38, 62, -1)],
    [put(wire, 4, 12), put(isolator, 36, 60), put(phone, 88, G)],
    [put(machine, 0, G, 0.7), put(flame, 20, 44, 0.6), put(feetTogether, 84, G - 4), put(away, 90, 40, 0.9)],
  ],
  brake: [
    [put(wheel, 36, 50), put(lever, 90, 70)],
    [put(toolDown, 8, G)],
    [put(machine, 0, G, 0.8), put(bank, 62, G)],
    [put(redButton, 60, G)],
    [put(machine, 20, G), put(chocks, 20, G), put(no, 86, 60)],
  ],
  red: [
    [put(machine, 6, G, 0.8), put(redLamp, 90, 40), put(yes, 76, G - 6, 0.9)],
    [put(toolDown, 8, G)],
    [put(keyOff, 60, 52, 1.3)],
    [put(redLamp, 30, 48), put(page, 84, 52)],
  ],
  oil: [
    [put(keyOff, 40, 52, 1.2), put(redLamp, 92, 40)],
    [put(clockSign, 34, 46), put(stick, 84, 76, 1.2)],
    [put(keyOff, 34, 52), put(no, 21, 65), put(spanner, 90, 52)],
  ],
  hot: [
    [put(toolDown, 34, G, 0.8), put(wind, 2, 30)],
    [put(gauge, 36, 56), put(keyOff, 90, 48)],
    [put(cap, 54, G, 1.2), put(no, 40, 74, 1.1)],
    [put(clockSign, 32, 48), put(grille, 88, 50, 1.1)],
  ],
  door: [
    [put(cab, 8, G), put(belt, 8, G), put(keyOff, 94, 50)],
    [put(cab, 14, G), put(away, 74, 44, 1.1)],
    [put(glass, 20, G), put(hammer, 44, 66, 1.3)],
    [put(cab, 20, G), put(belt, 20, G), put(hammer, 84, 66)],
    [put(cab, 4, G, 0.9), put(walker, 84, G), put(away, 74, 28)],
  ],
  arms: [
    [put(raisedArms, 8, G, 0.95), put(no, 66, G - 2)],
    [put(valve, 60, 52, 1.5)],
    [put(raisedArms, 4, G, 0.9), put(prop, 4, G, 0.9), put(phone, 104, 50, 0.8)],
  ],
  injection: [
    [put(hand, 20, 70, 1.1), put(away, 58, 48, 0.8), put(cross, 100, 48, 0.9)],
    [put(person, 30, G), put(says, 74, 44, 1.2)],
    [put(page, 40, 52, 1.2), put(cross, 92, 52, 0.9)],
    [put(clockSign, 40, 50, 1.2), put(no, 74, 64)],
  ],
  gas: [
    [put(keyOff, 40, 52, 1.2), put(smoke, 88, 74)],
    [put(mask, 60, 50, 1.5)],
    [put(smoke, 8, 46, 0.7), put(ducked, 54, G), put(away, 82, 60)],
    [put(smoke, 88, 74), put(walker, 46, G), put(no, 34, 74)],
    [put(phone, 24, 72), put(people, 58, G)],
    [put(meterSign, 36, 50, 1.2), put(yes, 78, 62)],
  ],
  stairs: [
    [put(keyOff, 34, 50), put(phone, 88, 72)],
    [put(machine, 0, G, 0.8), put(ladder, 88, G, 0.9), put(away, 62, 26, 0.8)],
    [put(ladder, 52, G, 1.3), put(person, 62, 62, 0.8)],
    [put(machine, 0, G, 0.7), put(walker, 84, G), put(away, 74, 28), put(smoke, 18, 44, 0.6)],
    [put(cord, 60, 56, 1.6)],
  ],
};
