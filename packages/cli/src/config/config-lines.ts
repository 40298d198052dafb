import type { ConfigApplied, ConfigChange, ConfigChanges } from "@yellow-harbor/protocol";
import pc from "picocolors";

/** A value on one line. */
export const inOneLine = (value: unknown): string => (value === undefined ? "nothing" : JSON.stringify(value));

const AFTER = 60;
const short = (value: unknown) => {
  const text = inOneLine(value);
  return text.length > AFTER ? `${text.slice(0, AFTER - 3)}...` : text;
};

function changeLines(changes: readonly ConfigChange[]): string[] {
  const width = Math.max(0, ...changes.map(({ path }) => path.length));
  return changes.map(
    ({ path, before, after }) => `  ${path.padEnd(width)}  ${short(before)} ${pc.dim("->")} ${short(after)}`,
  );
}

/** Changes below what they need. */
function grouped(changes: readonly ConfigChange[], now: string, later: string): string[] {
  const of = (when: ConfigChange["takes"]) => changes.filter(({ takes }) => takes === when);
  const [atOnce, restart] = [of("at-once"), of("restart")];
  return [
    ...(atOnce.length === 0 ? [] : [pc.bold(now), ...changeLines(atOnce)]),
    ...(restart.length === 0 ? [] : [pc.bold(pc.yellow(later)), ...changeLines(restart)]),
  ];
}

export function diffLines({ file, changes, needsRestart }: ConfigChanges): string[] {
  if (changes.length === 0) return [`${file} has what holds now.`];
  return [
    ...grouped(changes, "Can be taken now", "Needs a restart"),
    ...(needsRestart === undefined ? [] : [pc.yellow(`Nothing can be taken without the restart: ${needsRestart}.`)]),
  ];
}

export function appliedLines({ file, changes, queues: { changed, gone } }: ConfigApplied): string[] {
  if (changes.length === 0) return [`${file} has what holds already; nothing was changed.`];
  return [
    ...grouped(changes, "Holds from now on", "Not taken: needs a restart"),
    ...(changed.length === 0 ? [] : [`Tickets of ${changed.join(", ")} keep the wait they have.`]),
    ...(gone.length === 0 ? [] : [`Whoever searched in ${gone.join(", ")} is told that it is gone.`]),
  ];
}
