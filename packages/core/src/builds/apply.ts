import type { BuildEvent } from "../model/builds/events.ts";
import type { BuildLine, BuildsState, Version } from "../model/builds/state.ts";
import { assertNever } from "../model/decision.ts";
import type { PoolsPart } from "../model/state.ts";
import { percent } from "./roll-out.ts";

export function applyBuild(state: PoolsPart, event: BuildEvent, at: number): void {
  const line = lineOf(state.builds, event.line);
  switch (event.kind) {
    case "build.added":
      return add(line, event, at);
    case "build.stepped": {
      const { canary } = line;
      if (canary) {
        canary.step = event.step;
        canary.launched = 0;
        canary.othersLaunched = 0;
        canary.successes = 0;
        canary.failed = 0;
      }
      become(line, event.version, "canary", `at ${percent(event.share)} of new instances: ${event.why}`);
      return;
    }
    case "build.promoted":
      if (line.current !== null && line.current !== event.version) {
        become(line, line.current, "former", `${event.version} has taken over`);
        line.former = line.current;
      }
      line.current = event.version;
      line.canary = null;
      return become(line, event.version, "current", event.why);
    case "build.rolled-back":
      line.canary = null;
      if (line.current === event.version) {
        line.current = event.to;
        line.former = null;
        if (event.to !== null) become(line, event.to, "current", `${event.version} was rolled back`);
      }
      return become(line, event.version, "rolled-back", event.why);
    default:
      assertNever(event);
  }
}

function lineOf({ byLine }: BuildsState, line: string): BuildLine {
  const known = byLine.get(line);
  if (known) return known;
  const made: BuildLine = { line, versions: new Map(), current: null, former: null, canary: null, configured: null };
  byLine.set(line, made);
  return made;
}

function add(line: BuildLine, event: Extract<BuildEvent, { kind: "build.added" }>, at: number): void {
  const { version, spec, rollOut, isConfigured } = event;
  const before = line.versions.get(version);
  const known: Version = before ?? {
    version,
    addedAtMs: at,
    spec,
    state: "current",
    why: "",
    launched: 0,
    opened: 0,
    failed: 0,
    matches: 0,
  };
  known.spec = spec;
  line.versions.set(version, known);
  if (isConfigured) line.configured = version;
  if (rollOut !== null) {
    line.canary = { ...rollOut, version, step: 0, launched: 0, othersLaunched: 0, successes: 0, failed: 0 };
    return become(line, version, "canary", `at ${percent(rollOut.steps[0] ?? 1)} of new instances`);
  }
  // What the configuration says holds, whatever is being rolled out.
  if (line.canary) become(line, line.canary.version, "former", `the configuration names ${version}`);
  line.canary = null;
  if (line.current !== null && line.current !== version) {
    become(line, line.current, "former", `${version} has taken over`);
    line.former = line.current;
  }
  line.current = version;
  become(line, version, "current", isConfigured ? "from the configuration" : "the first of its line");
}

function become({ versions }: BuildLine, version: string, state: Version["state"], why: string): void {
  const known = versions.get(version);
  if (known) {
    known.state = state;
    known.why = why;
  }
}

/** Counts what becomes of an instance of a version: it was launched, came up, played a match to its end, failed. */
export function countFor(
  { byLine }: BuildsState,
  { build, version: id }: { readonly build: string; readonly version: string },
  what: "launched" | "opened" | "matches" | "failed",
): void {
  const line = byLine.get(build);
  const version = line?.versions.get(id);
  if (!line || !version) return;
  version[what] += 1;
  const { canary } = line;
  if (canary === null) return;
  if (canary.version !== id) {
    if (what === "launched") canary.othersLaunched += 1;
    return;
  }
  if (what === "opened" || what === "matches") canary.successes += 1;
  else canary[what] += 1;
}
