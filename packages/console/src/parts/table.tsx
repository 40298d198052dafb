import type { ReactNode } from "react";
import { CARD_CELL, CARD_ROW } from "./cards.ts";

interface Column<Row> {
  readonly heading: string;
  readonly value: (row: Row) => ReactNode;
  readonly mono?: boolean;
}

/** Rows as a table, each with its columns in order. */
export function Table<Row>({
  rows,
  idOf,
  columns,
}: {
  rows: readonly Row[];
  idOf: (row: Row) => string | number;
  columns: readonly Column<Row>[];
}) {
  return (
    <div className="overflow-x-auto rounded-box border border-base-300">
      <table className="table table-sm max-sm:block">
        <thead className="text-base-content/80 max-sm:hidden">
          <tr>
            {columns.map(({ heading }) => (
              <th key={heading}>{heading}</th>
            ))}
          </tr>
        </thead>
        <tbody className="max-sm:block">
          {rows.map((row) => (
            <tr key={idOf(row)} className={CARD_ROW}>
              {columns.map(({ heading, value, mono }) => (
                <td
                  key={heading}
                  data-label={heading}
                  className={`${CARD_CELL} ${mono ? "font-mono text-xs" : "tabular-nums"}`}
                >
                  {value(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What one does to a row. */
export function Verb({ onClick, title, children }: { onClick: () => void; title: string; children: ReactNode }) {
  return (
    <button type="button" className="btn btn-xs" title={title} onClick={onClick}>
      {children}
    </button>
  );
}
