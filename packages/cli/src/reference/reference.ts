import type { Command, Option } from "commander";
import { jsonShapes } from "./json-shapes.ts";

const HEAD = `# yh, command by command

\`yh help COMMAND\` says the same. Results go to standard output, hints and progress to standard error. This page is made from the commands.

With \`--json\` a command prints one JSON value, or with what goes on (\`watch\`, \`journal\`, \`status --watch\`) one a line. What the service answers is printed as it came; the
paragraph of the command names its schema in [openapi.json](openapi.json). A refusal is a problem ([problems](problems.md)) on standard output, also when the words of the command are
wrong; its code decides the exit code. New members may be added to any object without notice; none is taken away or renamed within a minor version.

`;

/** Every command with its arguments and options, as a page. */
export function reference(program: Command): string {
  const commands = program.commands.flatMap((one) => linesOf(one, ""));
  const everywhere = program.options.map(rowOf);
  return `${HEAD}| everywhere | about |
|---|---|
${everywhere.join("\n")}

${commands.join("\n\n")}
`;
}

function linesOf(command: Command, before: string): string[] {
  const path = `${before}${command.name()}`;
  const words = command.registeredArguments.map((one) => {
    const name = one.variadic ? `${one.name().toUpperCase()}...` : one.name().toUpperCase();
    return one.required ? name : `[${name}]`;
  });
  const hasOwn = command.commands.length === 0 || words.length > 0 || command.options.length > 0;
  const own = hasOwn ? [entryOf(command, path, words)] : [];
  return [...own, ...command.commands.flatMap((one) => linesOf(one, `${path} `))];
}

function entryOf(command: Command, path: string, words: readonly string[]): string {
  const shape = jsonShapes[path];
  const rows = [
    ...command.registeredArguments.map(({ description }, n) => `| \`${words[n]}\` | ${cell(description)} |`),
    ...command.options.filter(({ hidden }) => !hidden).map(rowOf),
  ];
  const json = shape === undefined ? "" : ` With \`--json\`: \`${shape}\`.`;
  const table = rows.length === 0 ? "" : `\n\n| word | about |\n|---|---|\n${rows.join("\n")}`;
  return `## yh ${[path, ...words].join(" ")}\n\n${sentence(command.description())}${json}${table}`;
}

function rowOf({ flags, description, defaultValue, envVar }: Option): string {
  const more = [
    ...(defaultValue === undefined ? [] : [`${String(defaultValue)} when left out`]),
    ...(envVar === undefined ? [] : [`or \`${envVar}\``]),
  ];
  return `| \`${flags.replaceAll("|", "\\|")}\` | ${cell(description)}${more.length === 0 ? "" : ` (${more.join("; ")})`} |`;
}

const sentence = (text: string): string => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`.replace(/\.\.$/, ".");
const cell = (text: string): string => text.replaceAll("|", "\\|");
