import { setTimeout as wait } from "node:timers/promises";
import type { Logger } from "pino";
import type { EffectRunner } from "./effects.ts";

const POLITE_MS = 1_500;
const FORCED_MS = 1_500;

/** For a service that takes its instances with it: signals, waits a moment, then kills. */
export async function stopAllInstances(effects: EffectRunner, log: Logger): Promise<void> {
  // A room whose instance goes asks for another at once.
  effects.startNothing();
  for (const [signal, patienceMs] of [
    ["terminate", POLITE_MS],
    ["kill", FORCED_MS],
  ] as const) {
    const running = effects.running();
    if (running.length === 0) return;
    log.info({ instances: running.length, signal }, "stopping instances");
    for (const instance of running) effects.driverOf(instance).signal(instance, signal);
    for (const begin = Date.now(); effects.running().length > 0 && Date.now() - begin < patienceMs; ) await wait(25);
  }
}
