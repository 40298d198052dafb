import { type ListName, listNames, listOf } from "./lists.ts";
import type { Reading } from "./reading.ts";

/** What is looked at, and how. */
export interface View {
  readonly list: ListName;
  /** Number of the column that is sorted by. */
  readonly sortedBy: number;
  readonly filter: string;
  /** Whether keys go into the filter. */
  readonly isTyping: boolean;
  /** The row that is chosen. */
  readonly chosen: number;
  /** Why the chosen one is as it is; in place of the list. */
  readonly detail: { readonly id: string; readonly lines: readonly string[] } | undefined;
}

export const FIRST_VIEW: View = {
  list: "rooms",
  sortedBy: 0,
  filter: "",
  isTyping: false,
  chosen: 0,
  detail: undefined,
};

/** A key as Node names it. */
export interface Key {
  readonly name?: string | undefined;
  readonly sequence?: string | undefined;
  readonly ctrl?: boolean | undefined;
}

/** What has to be done beside showing the view. */
export type Wish = "nothing" | "quit" | "look-deeper";

/** The rows of the list that pass the filter, sorted. */
export function rowsOf(reading: Reading, { list, filter, sortedBy }: View): readonly object[] {
  const { rows, text, columns } = listOf(list);
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (row: object) => words.every((word) => text(row).toLowerCase().includes(word));
  const by = columns(reading.atMs)[sortedBy]?.by ?? (() => 0);
  return rows(reading)
    .filter(fits)
    .sort((a, b) => {
      const [one, other] = [by(a), by(b)];
      return typeof one === "number" && typeof other === "number"
        ? one - other
        : String(one).localeCompare(String(other));
    });
}

/** The view after a key. */
export function press(view: View, key: Key, count: number): { readonly view: View; readonly wish: Wish } {
  if (key.ctrl && key.name === "c") return { view, wish: "quit" };
  if (view.isTyping) return { view: type(view, key), wish: "nothing" };
  if (view.detail) return leave(view, key);
  const only = (change: Partial<View>) => ({ view: { ...view, ...change }, wish: "nothing" }) as const;
  const move = (by: number) => only({ chosen: Math.max(0, Math.min(count - 1, view.chosen + by)) });
  const listed = listNames[Number(key.sequence) - 1];
  if (listed !== undefined) return only({ list: listed, sortedBy: 0, chosen: 0 });
  switch (key.name) {
    case "q":
      return { view, wish: "quit" };
    case "s":
      return only({ sortedBy: (view.sortedBy + 1) % listOf(view.list).columns(0).length });
    case "tab":
      return only({
        list: listNames[(listNames.indexOf(view.list) + 1) % listNames.length] ?? "rooms",
        sortedBy: 0,
        chosen: 0,
      });
    case "up":
    case "k":
      return move(-1);
    case "down":
    case "j":
      return move(1);
    case "pageup":
      return move(-10);
    case "pagedown":
      return move(10);
    case "escape":
      return only({ filter: "", chosen: 0 });
    case "return":
      return count === 0 ? only({}) : { view, wish: "look-deeper" };
    default:
      return key.sequence === "/" ? only({ isTyping: true, chosen: 0 }) : only({});
  }
}

function leave(view: View, { name }: Key): { readonly view: View; readonly wish: Wish } {
  if (name === "q") return { view, wish: "quit" };
  const isOver = name === "escape" || name === "return" || name === "backspace" || name === "left";
  return { view: isOver ? { ...view, detail: undefined } : view, wish: "nothing" };
}

function type(view: View, { name, sequence = "" }: Key): View {
  if (name === "return") return { ...view, isTyping: false };
  if (name === "escape") return { ...view, isTyping: false, filter: "" };
  if (name === "backspace") return { ...view, filter: view.filter.slice(0, -1) };
  const isPrintable = sequence.length === 1 && sequence >= " ";
  return isPrintable ? { ...view, filter: view.filter + sequence } : view;
}
