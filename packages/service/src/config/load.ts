import { dirname, resolve } from "node:path";
import { Pool } from "@yellow-harbor/protocol";
import { closest, distance } from "fastest-levenshtein";
import type { z } from "zod";
import { accountFaults } from "./account-faults.ts";
import { commandFaults } from "./commands.ts";
import type { Fault } from "./fault.ts";
import { Queue, type QueueConfig, queueFaults } from "./queue.ts";
import { referenceFaults } from "./references.ts";
import { Config, type PoolConfig } from "./schema.ts";
import { knownKeys } from "./schema-walk.ts";
import { type Checked, type ConfigFault, type Override, type Place, parseYaml, readYaml } from "./yaml-file.ts";

export type LoadedConfig =
  | {
      readonly ok: true;
      readonly config: Config;
      readonly file: string;
      readonly folder: string;
      /** Where in the file a value is; undefined for what is not there. */
      readonly placeOf: (path: readonly string[]) => Place | undefined;
    }
  | { readonly ok: false; readonly file: string; readonly faults: readonly ConfigFault[] };

/** What came of reading the configuration. */
export type ReadConfig =
  | { readonly ok: true; readonly config: Config; readonly file: string }
  | { readonly ok: false; readonly file: string; readonly faults: readonly ConfigFault[] };

/**
 * Reads and checks a configuration file, with what takes the place of its values. All faults are found at once.
 * Without checksums no large file is read: a service that runs has players waiting, and holds each start against its own.
 */
export function loadConfig(
  file: string,
  overrides: readonly Override[] = [],
  { checksums = true }: { readonly checksums?: boolean } = {},
): LoadedConfig {
  const path = resolve(file);
  const folder = dirname(path);
  const check = (values: unknown): Checked<Config> => {
    const checked = readConfig(values);
    const faults =
      "value" in checked
        ? [...commandFaults(checked.value, folder, checksums), ...accountFaults(checked.value, folder)]
        : [];
    return faults.length === 0 ? checked : { faults };
  };
  const read = readYaml(path, check, overrides);
  return read.ok
    ? { ok: true, config: read.value, file: path, folder, placeOf: read.placeOf }
    : { ok: false, file: path, faults: read.faults };
}

export type LoadedQueue =
  | { readonly ok: true; readonly queue: QueueConfig; readonly file: string }
  | { readonly ok: false; readonly file: string; readonly faults: readonly ConfigFault[] };

/**
 * Reads other rules for a queue: a file with what differs from those it has, by itself or below `queues` and the
 * queue's name.
 */
export function loadQueueChange(file: string, name: string, base: QueueConfig): LoadedQueue {
  const path = resolve(file);
  const read = readYaml(path, (values) => readQueue(values, name, base));
  return read.ok ? { ok: true, queue: read.value, file: path } : { ok: false, file: path, faults: read.faults };
}

/** The same of what was put together otherwise; faults have no place in a file. */
export function checkQueueChange(
  values: unknown,
  name: string,
  base: QueueConfig,
): { readonly queue: QueueConfig } | { readonly faults: readonly string[] } {
  const checked = readQueue(values, name, base);
  return "value" in checked
    ? { queue: checked.value }
    : { faults: checked.faults.map(({ path, message }) => `${path.join(".")} ${message}`) };
}

export type LoadedPool =
  | { readonly ok: true; readonly pool: PoolConfig; readonly file: string }
  | { readonly ok: false; readonly file: string; readonly faults: readonly ConfigFault[] };

/** Reads another policy for a pool: a file with what differs from it; `plan: null` for one that keeps nothing ready. */
export function loadPoolChange(file: string, base: PoolConfig): LoadedPool {
  const path = resolve(file);
  const read = readYaml(path, (values) => readPool(values, base));
  return read.ok ? { ok: true, pool: read.value, file: path } : { ok: false, file: path, faults: read.faults };
}

type ParsedConfig = { ok: true; config: Config } | { ok: false; faults: readonly ConfigFault[] };

export function parseConfig(text: string, overrides: readonly Override[] = []): ParsedConfig {
  const parsed = parseYaml(text, readConfig, overrides);
  return parsed.ok ? { ok: true, config: parsed.value } : parsed;
}

function readConfig(values: unknown): Checked<Config> {
  const checked = Config.safeParse(values);
  if (checked.success) {
    const faults = referenceFaults(checked.data);
    return faults.length === 0 ? { value: checked.data } : { faults };
  }
  const faults = checked.error.issues.flatMap((issue) => faultsOfIssue(Config, issue));
  return { faults: [...faults, ...otherFaults(values, checked.error.issues)] };
}

/**
 * Faults between the parts that are right by themselves, so that one reading finds both kinds. Parts that are not are left
 * out: first the value that does not fit, for which there may be a default, then all that belongs to it. What names
 * something that was left out is not held against it.
 */
function otherFaults(values: unknown, issues: readonly z.core.$ZodIssue[]): Fault[] {
  const rest: unknown = structuredClone(values);
  const leftOut = new Set<string>();
  let left = issues;
  for (const depth of [Number.POSITIVE_INFINITY, 2, 1]) {
    for (const issue of left) {
      const keys = issue.code === "unrecognized_keys" ? issue.keys.map((key) => [...issue.path, key]) : [issue.path];
      for (const path of keys) {
        const cut = path.slice(0, depth);
        if (cut.length === 0 || !remove(rest, cut)) continue;
        if (cut.length <= 2) leftOut.add(String(cut.at(-1)));
      }
    }
    const again = Config.safeParse(rest);
    if (again.success) {
      const isOf = ({ path, message }: Fault) =>
        path.some((step) => leftOut.has(String(step))) || [...leftOut].some((name) => message.includes(name));
      return referenceFaults(again.data).filter((fault) => !isOf(fault));
    }
    left = again.error.issues;
  }
  return [];
}

/** Takes a value out of what it lies in. Whether it was there. */
function remove(root: unknown, path: readonly PropertyKey[]): boolean {
  let at = root;
  for (const step of path.slice(0, -1)) at = (at as Record<PropertyKey, unknown> | null | undefined)?.[step];
  const last = path.at(-1);
  if (typeof at !== "object" || at === null || last === undefined || !Object.hasOwn(at, last)) return false;
  // An element that goes would move those behind it, whose places other faults name.
  if (Array.isArray(at)) return false;
  return delete (at as Record<PropertyKey, unknown>)[last];
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

function readPool(values: unknown, base: PoolConfig): Checked<PoolConfig> {
  if (!isRecord(values)) return { faults: [{ path: [], message: "expected what differs from the pool" }] };
  const { plan, ...others } = values;
  const merged = isRecord(plan) ? { ...base.plan, ...plan } : plan === undefined ? base.plan : plan;
  const checked = Pool.safeParse({ ...base, ...others, plan: merged });
  if (!checked.success) return { faults: checked.error.issues.flatMap((issue) => faultsOfIssue(Pool, issue)) };
  const { plan: read, max } = checked.data;
  if (read === null || read.min <= max) return { value: checked.data };
  return { faults: [{ path: ["plan", "min"], message: `the minimum, ${read.min}, is above the maximum, ${max}` }] };
}

function readQueue(values: unknown, name: string, base: QueueConfig): Checked<QueueConfig> {
  if (!isRecord(values)) return { faults: [{ path: [], message: "expected what differs from the queue's rules" }] };
  const { queues } = values;
  const below = isRecord(queues) ? ["queues", name] : [];
  const change = isRecord(queues) ? queues[name] : values;
  if (!isRecord(change)) return { faults: [{ path: ["queues"], message: `expected the rules of ${name}` }] };
  const checked = Queue.safeParse({ ...base, ...change });
  const faults = checked.success
    ? queueFaults(checked.data)
    : checked.error.issues.flatMap((issue) => faultsOfIssue(Queue, issue));
  if (checked.success && faults.length === 0) return { value: checked.data };
  return { faults: faults.map((fault) => ({ ...fault, path: [...below, ...fault.path] })) };
}

function faultsOfIssue(schema: z.core.$ZodType, issue: z.core.$ZodIssue): Fault[] {
  if (issue.code !== "unrecognized_keys") return [{ path: issue.path, message: issue.message }];
  const known = knownKeys(schema, issue.path);
  return issue.keys.map((key) => {
    const near = known.length === 0 ? undefined : closest(key, known);
    const isNear = near !== undefined && distance(key.toLowerCase(), near.toLowerCase()) <= Math.max(2, key.length / 2);
    const hint = isNear ? `did you mean ${near}?` : `known here: ${known.join(", ")}`;
    return { path: issue.path, key, message: `unknown key ${key}; ${hint}` };
  });
}
