import type { TicketLine } from "./traffic.ts";

const DAY_S = 86_400;

/** Traffic of several days one after the other: each begins whole days after the one before, and ids stay apart. */
export function oneAfterTheOther(days: readonly (readonly TicketLine[])[]): readonly TicketLine[] {
  const [only] = days;
  if (only !== undefined && days.length === 1) return only;
  let fromS = 0;
  return days.flatMap((lines, n) => {
    const shifted = lines.map((line) => ({
      ...line,
      at: line.at + fromS,
      ticket: `${n + 1}:${line.ticket}`,
      ...(line.cancelAt !== undefined && { cancelAt: line.cancelAt + fromS }),
    }));
    const endS = lines.reduce((last, { at, cancelAt = at }) => Math.max(last, at, cancelAt), 0);
    fromS += DAY_S * (Math.floor(endS / DAY_S) + 1);
    return shifted;
  });
}
