import type { Command } from "../model/command.ts";
import type { TestHarbor } from "./test-harbor.ts";

const HOWS = [
  ...(["cordon", "open", "open", "drain", "enroll", "join", "lose", "remove", "measure"] as const),
  ...(["schedule", "warm", "cool", "longest"] as const),
] as const;

export type Fleeting = (typeof HOWS)[number];
export const FLEETING: readonly Fleeting[] = HOWS;

/** What becomes of machines and plans: operators, agents and schedules say so. */
export function fleet(test: TestHarbor, { how, size }: { readonly how: Fleeting; readonly size: number }): void {
  const { machines, plans } = test.harbor.state;
  // Rarely the one that most of the play needs.
  const machine = size === 0 ? "here" : `spot-${size % 3}`;
  const host = `10.0.0.${size}`;
  const pool = size % 2 === 0 ? "sluice" : "weir";
  const [window] = plans.byPool.get(pool)?.windows ?? [];
  const load = (size % 5) / 4;
  const times = { fromMs: test.now + 1_000 * size, untilMs: test.now + 5_000 * (size + 1) };
  const commands: Record<Fleeting, Command> = {
    cordon: { do: "machine.set-mode", machine, mode: "cordoned", withinMs: undefined, reason: undefined },
    open: { do: "machine.set-mode", machine: "here", mode: "open", withinMs: undefined, reason: undefined },
    drain: { do: "machine.set-mode", machine, mode: "draining", withinMs: 1_000 * size, reason: "at random" },
    enroll: { do: "machine.enroll", machine, group: "spot", host, from: host },
    join: { do: "machine.join", machine, from: host },
    lose: { do: "machine.lose", machine: [...machines.agents.keys()][size % 2] ?? machine, why: "lost at random" },
    remove: { do: "machine.remove", machine },
    measure: { do: "machine.measure", machine, measure: { cpus: 4, memoryMb: 4_096, load, memoryFreeMb: 512 * size } },
    schedule: {
      do: "plan.schedule",
      pool,
      windows: size > 8 ? [] : [{ id: "schedule-1", ...times, min: size % 3, spare: 0, why: "evening" }],
    },
    warm: { do: "plan.warm", pool, fromMs: undefined, lastsMs: 3_000, min: 1, spare: size % 2, reason: undefined },
    cool: { do: "plan.cool", pool, window: window?.id ?? "w_none" },
    longest: { do: "instance.run-late", instance: [...test.harbor.state.pools.instances.keys()][size * 3] ?? "i_none" },
  };
  test.run(commands[how]);
}
