import type { InstanceState, Phase } from "@yellow-harbor/protocol";
import pc from "picocolors";
import { io } from "../io.ts";

const COLUMNS_IN_A_PIPE = 200;

/** Where a command prints. Results go to standard output; progress and hints to standard error. */
export interface Screen {
  readonly json: boolean;
  readonly absolute: boolean;
  readonly width: number;
  line(text?: string): void;
  note(text: string): void;
  /** Prints a value as JSON, or what `human` makes of it. */
  show<T>(value: T, human: (value: T) => readonly string[]): void;
}

export function screenFor({ json = false, absolute = false }: { json?: boolean; absolute?: boolean }): Screen {
  const { out, err } = io();
  const line = (text = "") => void out.write(`${text}\n`);
  return {
    json,
    absolute,
    width: (out.isTTY && out.columns) || COLUMNS_IN_A_PIPE,
    line,
    note: (text) => void err.write(`${pc.dim(text)}\n`),
    show: (value, human) => {
      if (json) return line(JSON.stringify(value, null, 2));
      for (const text of human(value)) line(text);
    },
  };
}

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
