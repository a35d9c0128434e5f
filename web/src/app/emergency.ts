/** The cards, in the order in which they are needed most. */
export const CARDS = ["fire", "rollover", "line", "brake", "red", "oil", "hot", "door", "arms", "injection", "gas", "stairs"] as const;

/** A card's steps, as the texts hold them: one after the other, parted by a bar. */
export const stepsOf = (text: string) => text.split("/").map((s) => s.trim());
