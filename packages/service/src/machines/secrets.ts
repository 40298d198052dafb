import { readFileSync } from "node:fs";
import { resolve } from "node:path";
import { type BuildSpec, placeholdersIn } from "@yellow-harbor/protocol";
import type { SecretConfig } from "../config/schema.ts";

interface Kept {
  readonly secrets: Readonly<Record<string, SecretConfig>>;
  /** Folder that files count from. */
  readonly folder: string;
}

export type Secrets = Readonly<Record<string, string>>;

/** The secrets that a build names, or why one cannot be had. They are read at each launch, so that new ones count at once. */
export function secretsFor(
  { args, environment }: BuildSpec,
  more: Readonly<Record<string, string>>,
  kept: Kept,
): Secrets | string {
  const texts = [...args, ...Object.values(environment), ...Object.values(more)];
  const named = texts.flatMap(placeholdersIn).filter((name) => name.startsWith("secret."));
  const found: Record<string, string> = {};
  for (const name of new Set(named.map((one) => one.slice("secret.".length)))) {
    const value = secretNamed(name, kept);
    if (value === undefined) return `the secret ${name} cannot be read; see secrets of the configuration`;
    found[name] = value;
  }
  return found;
}

/** A secret of the configuration; undefined when it cannot be read. */
export function secretNamed(name: string, { secrets, folder }: Kept): string | undefined {
  const where = Object.hasOwn(secrets, name) ? secrets[name] : undefined;
  if (where === undefined) return undefined;
  if ("environment" in where) return process.env[where.environment];
  try {
    return readFileSync(resolve(folder, where.file), "utf8").split(/\r?\n/)[0];
  } catch {
    return undefined;
  }
}
