import { closest, distance } from "fastest-levenshtein";
import { parse } from "yaml";
import { Config } from "./schema.ts";
import { fixedPaths } from "./schema-walk.ts";
import type { Override } from "./yaml-file.ts";

/** Variables that yh reads itself, which are no part of the configuration. */
const OWN = new Set(["YH_URL", "YH_TOKEN", "YH_AGENT_TOKEN", "YH_ACCEPT_RISKS", "YH_CONFIG", "YH_PROFILE"]);

/** Name of the variable for a path: YH_PLAYERS_GRACE_MS is players.graceMs. */
export const variableOf = (path: readonly string[]): string =>
  `YH_${path.map((step) => step.replace(/([a-z0-9])([A-Z])/g, "$1_$2").replaceAll("-", "_")).join("_")}`.toUpperCase();

let variables: ReadonlyMap<string, readonly string[]> | undefined;

/** Variables that take the place of values, each with the path of its value. */
export function configVariables(): ReadonlyMap<string, readonly string[]> {
  variables ??= new Map(fixedPaths(Config).map((path) => [variableOf(path), path]));
  return variables;
}

export type Overrides = { readonly overrides: readonly Override[] } | { readonly fault: string };

/**
 * Values of the environment and of flags, the latter last: each takes the place of those before it. What looks like one of
 * ours and is none is a fault, since it would be without effect.
 */
export function overridesFrom(
  environment: Readonly<Record<string, string | undefined>>,
  settings: readonly string[] = [],
): Overrides {
  const overrides: Override[] = [];
  for (const [name, text] of Object.entries(environment)) {
    if (!name.startsWith("YH_") || OWN.has(name) || text === undefined) continue;
    const path = configVariables().get(name);
    if (path === undefined) return { fault: unknownVariable(name) };
    overrides.push({ path, value: meaningOf(text), from: name });
  }
  for (const setting of settings) {
    const at = setting.indexOf("=");
    const path = setting.slice(0, at).split(".");
    if (at < 1 || path.some((step) => step === "")) {
      return { fault: `--set ${setting} is no setting; give PATH=VALUE, such as pools.sluice.max=40.` };
    }
    overrides.push({ path, value: meaningOf(setting.slice(at + 1)), from: `--set ${setting.slice(0, at)}` });
  }
  return { overrides };
}

/** What a text means in the file: a number, true, a list in brackets; else the text itself. */
function meaningOf(text: string): unknown {
  try {
    return parse(text, { maxAliasCount: 0 });
  } catch {
    return text;
  }
}

function unknownVariable(name: string): string {
  const known = [...configVariables().keys()];
  const near = closest(name, known);
  const hint = distance(name, near) <= 4 ? `; did you mean ${near}?` : "; `yh config show --origin` names them all.";
  return `The variable ${name} belongs to no key of the configuration${hint}`;
}
