import type { Command } from "commander";

/** A word that may come next, and what it is for. */
export interface Word {
  readonly word: string;
  readonly about: string;
}

/** What may follow the words of a command. */
export interface Place {
  /** Words of the command, such as `room show`; empty for yh itself. */
  readonly path: string;
  readonly commands: readonly Word[];
  readonly options: readonly Word[];
}

/** Every command with what may follow it, the whole first. */
export function placesOf(program: Command): Place[] {
  const everywhere = optionsOf(program);
  const walk = (command: Command, path: string): Place[] => {
    const commands = command.commands.map((one) => ({ word: one.name(), about: firstLine(one.description()) }));
    const options = command === program ? everywhere : [...optionsOf(command), ...everywhere];
    return [
      { path, commands, options },
      ...command.commands.flatMap((one) => walk(one, path === "" ? one.name() : `${path} ${one.name()}`)),
    ];
  };
  return walk(program, "");
}

const optionsOf = (command: Command): Word[] =>
  command.options.flatMap(({ long, description, hidden }) =>
    long === undefined || long === null || hidden ? [] : [{ word: long, about: firstLine(description) }],
  );

/** A description as one short line, without what a shell would act on. */
const firstLine = (text: string): string =>
  text
    .replaceAll("'", "\u2019")
    .replace(/["`$\\]/g, "")
    .split(/[;\n]/)[0] ?? "";
