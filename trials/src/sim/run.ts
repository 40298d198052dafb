import { Fault } from "./fault.ts";
import { simRules } from "./rules.ts";
import type { Step } from "./script.ts";
import { World, type WorldCounts } from "./world.ts";

export interface SimRun {
  readonly steps: number;
  /** Of everything that was kept and heard: the same for the same seed and script. */
  readonly digest: string;
  readonly events: number;
  readonly kinds: ReadonlyMap<string, number>;
  readonly counts: WorldCounts & {
    readonly resumes: number;
    readonly acknowledged: number;
    readonly refused: number;
    readonly instances: number;
  };
  readonly fault: { readonly code: string; readonly text: string; readonly atStep: number } | undefined;
}

export interface SimOptions {
  readonly seed: number;
  /** At each so many quiet moments the whole state is held against the disk; 20 when left out. */
  readonly compareEvery?: number;
  /** Changes the world before the first step; to see that what is broken in it is found. */
  readonly spoil?: (world: World) => void;
}

/** Runs a script from an empty harbor to its end, or to the first fault. */
export async function runScript(
  script: Iterable<Step>,
  { seed, compareEvery = 20, spoil }: SimOptions,
): Promise<SimRun> {
  const world = new World(simRules(), seed, compareEvery);
  spoil?.(world);
  let steps = 0;
  let fault: SimRun["fault"];
  try {
    for (const step of script) {
      steps += 1;
      await world.take(step);
    }
    await world.comeToRest();
  } catch (error) {
    const code = error instanceof Fault ? error.code : "threw";
    const text = error instanceof Fault ? error.message : String((error as Error).stack);
    fault = { code, text, atStep: steps };
  }
  const { players, machine, disk, shadow } = world;
  const sum = (of: (player: (typeof players)[number]) => number) => players.reduce((all, one) => all + of(one), 0);
  return {
    steps,
    fault,
    digest: world.digest(),
    events: disk.lastSeq,
    kinds: shadow.kinds,
    counts: {
      ...world.counts,
      resumes: sum(({ resumes }) => resumes),
      acknowledged: sum(({ acknowledgements }) => acknowledgements),
      refused: sum(({ refusals }) => refusals),
      instances: machine.started,
    },
  };
}
