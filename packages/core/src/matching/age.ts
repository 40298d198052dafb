import type { Row } from "./waiting.ts";

/** The same list where it is in order already, which it is as a rule. */
export function inOrder(rows: Row[]): Row[] {
  for (let n = 1; n < rows.length; n++) if (older(rows[n - 1] as Row, rows[n] as Row) > 0) return rows.sort(older);
  return rows;
}

/** Below zero when the first has waited longer, with what it has a head start of. */
export const older = (a: Row, b: Row) => a.rankMs - b.rankMs || a.order - b.order;
