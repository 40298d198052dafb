import pc from "picocolors";
import { textWidth } from "./text-width.ts";

export interface Column<Row> {
  readonly heading: string;
  readonly value: (row: Row) => string;
  readonly align?: "right";
}

const GAP = "  ";

/** A table without boxes: the important column first, headings dim, lines cut to `width` with a sign that they were. */
export function table<Row>(rows: readonly Row[], columns: readonly Column<Row>[], width: number): string[] {
  const cells = rows.map((row) => columns.map((column) => column.value(row)));
  const widths = columns.map((column, n) =>
    Math.max(textWidth(column.heading), ...cells.map((line) => textWidth(line[n] ?? ""))),
  );
  const lay = (line: readonly string[]) =>
    columns
      .map((column, n) => pad(line[n] ?? "", widths[n] ?? 0, column.align))
      .join(GAP)
      .trimEnd();
  const headings = lay(columns.map((column) => column.heading));
  return [pc.dim(cut(headings, width)), ...cells.map((line) => cut(lay(line), width))];
}

function pad(text: string, width: number, align: "right" | undefined): string {
  const blank = " ".repeat(Math.max(0, width - textWidth(text)));
  return align === "right" ? blank + text : text + blank;
}

/** Cuts to a width in columns; an ellipsis says that something was cut. */
export function cut(text: string, width: number): string {
  if (textWidth(text) <= width) return text;
  let result = "";
  for (const { segment } of new Intl.Segmenter().segment(text)) {
    if (textWidth(result + segment) > width - 1) break;
    result += segment;
  }
  return `${result}…`;
}
