import {
  createSortedRowModel,
  rowSortingFeature,
  type SortingState,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { memo, type ReactNode, useEffect, useMemo, useRef } from "react";
import { useInAddress } from "../live/use-address.ts";
import { CARD_CELL, CARD_ROW } from "./cards.ts";

export interface GridColumn<Row> {
  readonly id: string;
  readonly heading: string;
  readonly cell: (row: Row) => ReactNode;
  /** What rows are sorted by; a column without it cannot be sorted by. */
  readonly sortBy?: (row: Row) => string | number;
  /** Figures stand at the right. */
  readonly isFigure?: boolean;
  readonly isMono?: boolean;
}

interface GridProps<Row> {
  readonly label: string;
  readonly rows: readonly Row[];
  /** Kept from one drawing to the next, or rows are sorted anew each time. */
  readonly columns: readonly GridColumn<Row>[];
  readonly idOf: (row: Row) => string;
  readonly open: string | undefined;
  readonly choose: (id: string) => void;
  /** Called when the last rows come into sight. */
  readonly onEnd?: () => void;
  readonly className?: string;
  /** What the order is called in the address, where a page has several lists. */
  readonly sortName?: string;
}

const features = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel() });
const ROW_PX = 40;
const OVERSCAN = 12;

/**
 * Any number of rows, of which only those in sight are drawn. Headings sort, and the address says by which. At the width
 * of a phone each row is a card.
 */
export function Grid<Row extends object>(props: GridProps<Row>) {
  const { label, rows, columns, idOf, open, choose, onEnd, className = "", sortName = "sort" } = props;
  const [sort, setSort] = useInAddress(sortName);
  const sorting = useMemo<SortingState>(
    () => (sort === "" ? [] : [{ id: sort.replace(/^-/, ""), desc: sort.startsWith("-") }]),
    [sort],
  );
  const defined = useMemo(
    () =>
      columns.map(({ id, sortBy }) => ({
        id,
        accessorFn: (row: Row) => sortBy?.(row),
        enableSorting: sortBy !== undefined,
        sortFn: (a: { original: Row }, b: { original: Row }) => compare(sortBy?.(a.original), sortBy?.(b.original)),
      })),
    [columns],
  );
  const table = useTable({
    features,
    columns: defined,
    data: rows as Row[],
    getRowId: idOf,
    state: { sorting },
  });
  const sorted = table.getRowModel().rows;
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    getItemKey: (index) => sorted[index]?.id ?? index,
    overscan: OVERSCAN,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0], items.at(-1)];
  const isAtEnd = last !== undefined && last.index >= sorted.length - 1;
  useEffect(() => {
    if (isAtEnd) onEnd?.();
  }, [isAtEnd, onEnd]);
  const before = first?.start ?? 0;
  const after = virtual.getTotalSize() - (last?.end ?? 0);
  return (
    <section
      ref={box}
      aria-label={`${label}, scrolls`}
      className={`min-h-0 overflow-auto rounded-box border border-base-300 ${className}`}
    >
      <table aria-label={label} aria-rowcount={sorted.length} className="table table-sm max-sm:block">
        <thead className="sticky top-0 z-10 bg-base-100 text-base-content/80 max-sm:hidden">
          <tr>
            {columns.map((column) => (
              <Heading key={column.id} column={column} sort={sort} setSort={setSort} />
            ))}
          </tr>
        </thead>
        <tbody className="max-sm:block">
          {before > 0 && <Gap px={before} />}
          {items.map((item) => {
            const row = sorted[item.index];
            if (row === undefined) return null;
            return (
              <DrawnRow
                key={row.id}
                id={row.id}
                index={item.index}
                row={row.original}
                columns={columns}
                isOpen={row.id === open}
                choose={choose}
                measure={virtual.measureElement}
              />
            );
          })}
          {after > 0 && <Gap px={after} />}
        </tbody>
      </table>
    </section>
  );
}

interface DrawnRowProps<Row> {
  readonly id: string;
  readonly index: number;
  readonly row: Row;
  readonly columns: readonly GridColumn<Row>[];
  readonly isOpen: boolean;
  readonly choose: (id: string) => void;
  readonly measure: (row: Element | null) => void;
}

function OneRow<Row>({ id, index, row, columns, isOpen, choose, measure }: DrawnRowProps<Row>) {
  return (
    <tr
      ref={measure}
      data-index={index}
      aria-rowindex={index + 1}
      onClick={() => choose(id)}
      className={`cursor-pointer hover:bg-base-200 ${CARD_ROW} ${isOpen ? "bg-base-200 shadow-[inset_3px_0_0_var(--color-primary)]" : ""}`}
    >
      {columns.map(({ id: column, heading, cell, isFigure, isMono }) => (
        <td
          key={column}
          data-label={heading}
          className={`${CARD_CELL} ${isFigure ? "text-right tabular-nums" : ""} ${isMono ? "font-mono text-xs" : ""}`}
        >
          {cell(row)}
        </td>
      ))}
    </tr>
  );
}

/** What has not changed is not drawn anew. */
const DrawnRow = memo(OneRow) as typeof OneRow;

function compare(a: string | number | undefined, b: string | number | undefined): number {
  if (a === b) return 0;
  if (a === undefined) return 1;
  if (b === undefined) return -1;
  return typeof a === "string" || typeof b === "string" ? String(a).localeCompare(String(b)) : a - b;
}

const Gap = ({ px }: { px: number }) => (
  <tr aria-hidden className="max-sm:block">
    <td className="border-0 p-0 max-sm:block" style={{ height: px }} />
  </tr>
);

interface HeadingProps<Row> {
  readonly column: GridColumn<Row>;
  readonly sort: string;
  readonly setSort: (sort: string) => void;
}

/** A heading that sorts by its column, the other way at the second click, and no more at the third. */
function Heading<Row>({ column: { id, heading, sortBy, isFigure }, sort, setSort }: HeadingProps<Row>) {
  const isUp = sort === id;
  const isDown = sort === `-${id}`;
  const align = isFigure ? "text-right" : "";
  if (sortBy === undefined) return <th className={align}>{heading}</th>;
  const Arrow = isDown ? ArrowDown : ArrowUp;
  return (
    <th className={align} aria-sort={isUp ? "ascending" : isDown ? "descending" : "none"}>
      <button
        type="button"
        className={`inline-flex cursor-pointer items-center align-middle gap-1 hover:underline ${isFigure ? "flex-row-reverse" : ""}`}
        title={`Sort by ${heading.toLowerCase()}`}
        onClick={() => setSort(isUp ? `-${id}` : isDown ? "" : id)}
      >
        {heading}
        <Arrow size={12} aria-hidden className={isUp || isDown ? "" : "invisible"} />
      </button>
    </th>
  );
}
