import type { Problem } from "@yellow-harbor/protocol";
import type { Command } from "./command.ts";

/** A command that follows from an event in another capability; `otherwise` is what is done when it is refused. */
export interface Consequence {
  readonly command: Command;
  readonly otherwise?: (refused: Problem) => Command;
}
