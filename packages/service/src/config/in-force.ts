import type { QueueChange } from "@yellow-harbor/core";
import { type ConfigApplied, type ConfigChanges, type Problem, problem } from "@yellow-harbor/protocol";
import { changesBetween } from "./changes.ts";
import type { ReadConfig } from "./load.ts";
import type { Config } from "./schema.ts";
import type { ConfigFault } from "./yaml-file.ts";

type Refused = { readonly refused: Problem };

interface InForceParts {
  /** Reads the configuration again, when the service was started from a file. */
  readonly read: (() => ReadConfig) | undefined;
  /** Has the harbor decide by another configuration, whose values at some paths are others. */
  readonly toHarbor: (config: Config, paths: readonly string[]) => Promise<QueueChange | Refused>;
  /** Others who hold something of the configuration. */
  readonly toOthers: (config: Config, paths: readonly string[]) => Promise<void>;
}

/** The configuration that holds now. What cannot be changed while the service runs stays as it was at the start. */
export class ConfigInForce {
  #current: Config;
  /** One is applied after the other. */
  #applying: Promise<unknown> = Promise.resolve();

  constructor(config: Config) {
    this.#current = config;
  }

  get current(): Config {
    return this.#current;
  }

  /** What the file has that does not hold now. */
  changes(read: InForceParts["read"]): ConfigChanges | Refused {
    const loaded = readAgain(read);
    if ("refused" in loaded) return loaded;
    const { changes, needsRestart } = changesBetween(this.#current, loaded.config);
    return { file: loaded.file, changes: [...changes], ...(needsRestart !== undefined && { needsRestart }) };
  }

  /** Takes from the file what can be taken now: all of that, or nothing when there is a fault. */
  apply(parts: InForceParts): Promise<ConfigApplied | Refused> {
    const applied = this.#applying.then(() => this.#apply(parts));
    this.#applying = applied.catch(() => undefined);
    return applied;
  }

  async #apply({ read, toHarbor, toOthers }: InForceParts): Promise<ConfigApplied | Refused> {
    const loaded = readAgain(read);
    if ("refused" in loaded) return loaded;
    const { changes, next, needsRestart } = changesBetween(this.#current, loaded.config);
    if (needsRestart !== undefined) return { refused: onlyTogether(loaded.file, needsRestart) };
    const paths = changes.filter(({ takes }) => takes === "at-once").map(({ path }) => path);
    const done = { file: loaded.file, changes: [...changes] };
    if (paths.length === 0) return { ...done, queues: { changed: [], gone: [] } };
    const queues = await toHarbor(next, paths);
    if ("refused" in queues) return queues;
    this.#current = next;
    await toOthers(next, paths);
    return { ...done, queues: { changed: [...queues.changed], gone: [...queues.gone] } };
  }
}

function readAgain(read: InForceParts["read"]): { readonly file: string; readonly config: Config } | Refused {
  const loaded = read?.();
  if (!loaded) return { refused: problem("config-unreadable", "The service was not started from a file.") };
  return loaded.ok ? loaded : { refused: faultyConfig(loaded.file, loaded.faults) };
}

function faultyConfig(file: string, faults: readonly ConfigFault[]): Problem {
  const fields = faults.map(({ line, column, path, message, from }) => ({
    path: `${from ?? `${line}:${column}`} ${path}`,
    message,
  }));
  const [first] = fields;
  const detail = `${file}:${first?.path} ${first?.message}. Nothing was changed; \`yh config check\` names all faults.`;
  return problem("config-invalid", detail, { fields });
}

const onlyTogether = (file: string, fault: string): Problem =>
  problem(
    "config-invalid",
    `Some of ${file} holds after a restart alone, and the rest does not fit without it (${fault}). Nothing was changed; restart the service.`,
  );
