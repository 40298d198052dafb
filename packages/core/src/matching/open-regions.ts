import { EVERY_REGION } from "./line.ts";

/** The regions in which a match can be played, one bit each; all where their number does not matter. */
export const openOf = (rooms: readonly number[] | undefined): number =>
  rooms === undefined
    ? EVERY_REGION
    : rooms.reduce((open, many, region) => (many > 0 ? open | (1 << region) : open), 0);
