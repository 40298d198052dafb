import { noteKeyFile } from "@yellow-harbor/reach";
import { type AlertSources, watchForAlerts } from "./alerts/watch.ts";
import type { Config } from "./config/schema.ts";
import { writeKeyFile } from "./keys/key-file.ts";
import type { Listening } from "./listening.ts";

/** A part of the service that has something to do when it starts or stops. */
export interface Part {
  readonly begin?: () => Promise<void> | void;
  readonly end?: () => Promise<void> | void;
}

/** Begins one after the other; when one cannot, those before it end again. */
export async function beginAll(parts: readonly Part[]): Promise<void> {
  for (const [n, { begin }] of parts.entries()) {
    try {
      await begin?.();
    } catch (error) {
      await endAll(parts.slice(0, n));
      throw error;
    }
  }
}

/** The last to begin ends first. */
export async function endAll(parts: readonly Part[]): Promise<void> {
  for (const { end } of [...parts].reverse()) await end?.();
}

export function alertsPart(sources: AlertSources): Part {
  let stop: () => void = () => undefined;
  return {
    begin: () => {
      stop = watchForAlerts(sources);
    },
    end: () => stop(),
  };
}

/** Where operators need a key, the first is in the data folder, and `yh` of the same user finds it there. */
export function keyFile({ operators }: Config, dataFolder: string, key: string, listening: Listening): Part {
  if (operators.access === "open") return {};
  let takeBack: () => void = () => undefined;
  return {
    begin: () => {
      takeBack = noteKeyFile(Number(new URL(listening.url).port), writeKeyFile(dataFolder, key));
    },
    end: () => takeBack(),
  };
}
