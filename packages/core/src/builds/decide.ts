import { type BuildSpec, type ConfigName, linesOf } from "@yellow-harbor/protocol";
import type { BuildCommand } from "../model/builds/commands.ts";
import type { BuildLine } from "../model/builds/state.ts";
import { accept, assertNever, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { ReplyTo } from "../model/replies.ts";
import type { PoolsPart } from "../model/state.ts";
import { verdictOn } from "./roll-out.ts";
import { buildView } from "./view.ts";

type Doing<K extends BuildCommand["do"]> = Extract<BuildCommand, { do: K }>;

export const decideBuild = decideBy<BuildCommand, PoolsPart>({
  "build.configure": configure,
  "build.add": add,
  "build.change": change,
  "build.consider": (context, { line }) => consider(context, line),
});

type Changed = ReplyTo<"build.change">;

const changed = (state: PoolsPart, line: ConfigName, version: string) => (): Changed => {
  const build = buildView(state, line, version);
  if (build === undefined) throw new Error(`version ${version} of ${line} is gone before it was shown`);
  return { build };
};

const isSame = (one: BuildSpec, other: BuildSpec) => JSON.stringify(one) === JSON.stringify(other);

function configure({ state }: PoolsContext, { line, spec }: Doing<"build.configure">): Decision {
  const known = state.builds.byLine.get(line);
  const { version } = spec;
  const before = known?.versions.get(version);
  if (known?.configured === version && before && isSame(before.spec, spec)) return nothingToDo;
  return accept([{ kind: "build.added", line, version, spec, rollOut: null, isConfigured: true }]);
}

function add({ state, rules }: PoolsContext, { line, spec, rollOut }: Doing<"build.add">): Decision<Changed> {
  const lines = [...new Set([...rules.pools.values()].flatMap(linesOf))];
  if (!lines.includes(line)) {
    const detail = `No pool runs build line ${line}; there are ${lines.join(", ")}.`;
    return refuse("build-line-unknown", detail, { accepted: lines });
  }
  const { version } = spec;
  const known = state.builds.byLine.get(line);
  const before = known?.versions.get(version);
  const reply = changed(state, line, version);
  if (before) {
    if (isSame(before.spec, spec)) return accept([], { reply });
    const detail = `Version ${version} of ${line} is there with another command or way to run; give the new one a version of its own.`;
    return refuse("build-exists", detail);
  }
  if (known?.canary) {
    const detail = `Version ${known.canary.version} of ${line} is being rolled out; promote it or roll it back first.`;
    return refuse("roll-out-under-way", detail);
  }
  // With nothing to compare it with there is nothing to roll out step by step.
  const steps = known?.current == null ? null : rollOut;
  return accept([{ kind: "build.added", line, version, spec, rollOut: steps, isConfigured: false }], { reply });
}

function change({ state }: PoolsContext, { line, version, to, reason }: Doing<"build.change">): Decision<Changed> {
  const known = state.builds.byLine.get(line);
  if (known === undefined) {
    const accepted = [...state.builds.byLine.keys()];
    return refuse("build-line-unknown", `There is no build line ${line}; there are ${accepted.join(", ")}.`, {
      accepted,
    });
  }
  if (!known.versions.has(version)) {
    const accepted = [...known.versions.keys()];
    const detail = `Build line ${line} has no version ${version}; it has ${accepted.join(", ")}.`;
    return refuse("build-version-unknown", detail, { accepted });
  }
  const because = reason === undefined ? "" : `: ${reason}`;
  const reply = changed(state, line, version);
  if (to === "promoted") {
    if (known.current === version) return accept([], { reply });
    return accept([{ kind: "build.promoted", line, version, why: `promoted by an operator${because}` }], { reply });
  }
  return rollBack(known, version, `rolled back by an operator${because}`, reply);
}

function rollBack(known: BuildLine, version: string, why: string, reply: () => Changed): Decision<Changed> {
  const { line, canary, current, former } = known;
  if (canary?.version === version)
    return accept([{ kind: "build.rolled-back", line, version, to: current, why }], { reply });
  if (current !== version) {
    return refuse("no-roll-out", `Version ${version} of ${line} is neither current nor being rolled out.`);
  }
  if (former === null || former === version) {
    return refuse(
      "no-roll-out",
      `There is no version of ${line} to go back to from ${version}; add or promote another.`,
    );
  }
  return accept([{ kind: "build.rolled-back", line, version, to: former, why }], { reply });
}

function consider({ state }: PoolsContext, line: ConfigName): Decision {
  const known = state.builds.byLine.get(line);
  if (!known?.canary) return nothingToDo;
  const { canary, current } = known;
  const { version } = canary;
  const verdict = verdictOn(canary);
  switch (verdict.do) {
    case "wait":
      return nothingToDo;
    case "step":
      return accept([
        { kind: "build.stepped", line, version, step: verdict.step, share: verdict.share, why: verdict.why },
      ]);
    case "promote":
      return accept([{ kind: "build.promoted", line, version, why: verdict.why }]);
    case "roll-back":
      return accept([{ kind: "build.rolled-back", line, version, to: current, why: verdict.why }]);
    default:
      return assertNever(verdict);
  }
}
