import type { BuildSpec } from "@yellow-harbor/protocol";
import { RE2JS } from "re2js";

/** A pattern of a configuration or of an operator, run over what strangers make a server print. */
export type OutputPattern = RE2JS;

/**
 * Compiles a pattern for an engine whose time grows with the length of the line and nothing else: no line that is printed
 * can hold up the service, whatever the pattern.
 */
export const outputPattern = (source: string): OutputPattern => RE2JS.compile(source);

/** What of a build's patterns that engine does not take, such as looking ahead or back: by path, with the reason. */
export function patternFaults({
  ready,
  watch,
  probe,
}: BuildSpec): { readonly path: string[]; readonly message: string }[] {
  const patterns: [path: string[], source: string | undefined][] = [
    [["ready", "line"], typeof ready === "object" ? ready.line : undefined],
    [["probe", "answer"], probe?.answer],
    ...(["joined", "left", "score", "over"] as const).map((name): [string[], string | undefined] => [
      ["watch", name],
      watch?.[name],
    ]),
  ];
  return patterns.flatMap(([path, source]) => {
    const why = source === undefined ? undefined : whyNot(source);
    return why === undefined ? [] : [{ path, message: why }];
  });
}

function whyNot(source: string): string | undefined {
  try {
    outputPattern(source);
    return undefined;
  } catch (error) {
    const what = (error as Error).message.replace(/^error parsing regexp: /, "");
    return `is a pattern that cannot be run in linear time (${what}); look-around and back-references are not taken`;
  }
}
