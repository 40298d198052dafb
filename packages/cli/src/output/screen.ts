import { type InstanceState, type Phase, shownText } from "@yellow-harbor/protocol";
import pc from "picocolors";
import { io } from "../io.ts";

const COLUMNS_IN_A_PIPE = 200;

/** Where a command prints. Results go to standard output; progress and hints to standard error. */
export interface Screen {
  readonly json: boolean;
  readonly absolute: boolean;
  readonly width: number;
  line(text?: string): void;
  /** Prints a value as one line of JSON. */
  jsonLine(value: unknown): void;
  note(text: string): void;
  /** Prints a value as JSON, or what `human` makes of it. */
  show<T>(value: T, human: (value: T) => readonly string[]): void;
}

export function screenFor({ json = false, absolute = false }: { json?: boolean; absolute?: boolean }): Screen {
  const { out, err } = io();
  const line = (text = "") => void out.write(`${safeLine(text)}\n`);
  return {
    json,
    absolute,
    width: (out.isTTY && out.columns) || COLUMNS_IN_A_PIPE,
    line,
    jsonLine: (value) => void out.write(`${safeJson(JSON.stringify(value))}\n`),
    note: (text) => void err.write(`${pc.dim(safeLine(text))}\n`),
    show: (value, human) => {
      if (json) return void out.write(`${safeJson(JSON.stringify(value, null, 2))}\n`);
      for (const text of human(value)) line(text);
    },
  };
}

// Colours alone (ECMA-48, section 8.3.117); what else a text says to a terminal, somebody else has put into it.
const COLOUR = new RegExp(`(${"\u001b"}\\[\\d{1,3}(?:;\\d{1,3})*m)`);

/** A text as it is safe to print: names, reasons and notes come from strangers. */
const safeText = (text: string, but: string): string =>
  text
    .split(COLOUR)
    .map((part, n) => (n % 2 === 1 ? part : shownText(part, but)))
    .join("");

export const safeLine = (line: string): string => safeText(line, "");

/** The same for what has lines of its own. */
export const safeLines = (lines: string): string => safeText(lines, "\n\t");

/** JSON keeps what it says: what a terminal would act on is written as JSON writes it (RFC 8259, section 7). */
export const safeJson = (json: string): string => shownText(json, "\n", asJsonEscape);

const asJsonEscape = (character: string): string =>
  Array.from({ length: character.length }, (_, n) => {
    return `\\u${character.charCodeAt(n).toString(16).padStart(4, "0")}`;
  }).join("");

const phaseColour: Record<Phase, (text: string) => string> = {
  gathering: pc.cyan,
  counting: pc.yellow,
  travelling: pc.yellow,
  playing: pc.green,
  results: pc.magenta,
  closed: pc.dim,
};
export const phaseText = (phase: Phase) => phaseColour[phase](phase);

const stateColour: Record<InstanceState, (text: string) => string> = {
  launched: pc.yellow,
  booting: pc.yellow,
  open: pc.cyan,
  busy: pc.green,
  draining: pc.yellow,
  ended: pc.dim,
  failed: pc.red,
};
export const stateText = (state: InstanceState) => stateColour[state](state);
