import pc from "picocolors";
import type { Screen } from "./screen.ts";
import { cut } from "./table.ts";

interface ToldEvent {
  readonly seq: number;
  readonly atMs: number;
  readonly kind: string;
  readonly text?: string | undefined;
}

/** One event of the journal as a line: its number, its time of day, and what it says. */
export function eventLine(
  { seq, atMs, kind, text }: ToldEvent,
  { absolute, width }: Pick<Screen, "absolute" | "width">,
): string {
  const at = new Date(atMs).toISOString();
  const head = `${String(seq).padStart(7)}  ${absolute ? at : at.slice(11, 19)}  `;
  return `${pc.dim(head)}${text === undefined ? pc.dim(kind) : cut(text, Math.max(20, width - head.length))}`;
}
