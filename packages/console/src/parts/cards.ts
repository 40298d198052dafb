/** At the width of a phone a row of a table is a card: each cell a line that begins with the heading of its column. */
export const CARD_ROW = "max-sm:block max-sm:border-base-300 max-sm:border-b max-sm:py-1.5";
export const CARD_CELL =
  "max-sm:flex max-sm:gap-2 max-sm:py-0.5 max-sm:text-left max-sm:before:w-24 max-sm:before:shrink-0 max-sm:before:font-sans max-sm:before:text-xs max-sm:before:opacity-70 max-sm:before:content-[attr(data-label)]";
