/** A number of things, with the plural where there are not one. */
export const counted = (number: number, what: string): string => `${number} ${what}${number === 1 ? "" : "s"}`;
