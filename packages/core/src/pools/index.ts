import type { Exported } from "../model/capability.ts";
import type { PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { newPoolsState } from "../model/pools/state.ts";
import { applyPool } from "./apply.ts";
import { costsView } from "./costs.ts";
import { decidePool } from "./decide.ts";
import { describePool } from "./describe.ts";
import { explainInstance } from "./explain.ts";
import { poolViolations } from "./invariants.ts";
import { loadWith } from "./load.ts";
import { matchPlayer } from "./match-player.ts";
import { recoveryEffects } from "./recover.ts";
import { seenOfPools } from "./seen.ts";
import { fitOnEmpty, roomFor } from "./vacancy.ts";
import { instanceView, poolPushes, relayDoor } from "./view.ts";
import { poolsWaiting } from "./waits.ts";

/** Instances of dedicated servers, from the order to the end, and the matches that they run. */
export const pools = {
  names: ["pool", "instance"],
  newState: () => ({ pools: newPoolsState() }),
  decide: decidePool,
  apply: applyPool,
  deliveries: poolPushes,
  describe: describePool,
  touches: (_state, { instance }) => ({ instance }),
  due: {
    "instance-boot": (instance) => ({ do: "instance.boot-late", instance }),
    "instance-stop": (instance) => ({ do: "instance.stop-late", instance }),
    "instance-kill": (instance) => ({ do: "instance.kill-late", instance }),
    "instance-drain": (instance) => ({ do: "instance.drain-late", instance }),
    "instance-run": (instance) => ({ do: "instance.run-late", instance }),
    "instance-empty": (instance) => ({ do: "instance.empty-late", instance }),
    "instance-berths": (instance) => ({ do: "instance.berths-late", instance }),
    "instance-forget": (instance) => ({ do: "instance.forget", instance }),
  },
  recover: (state) => recoveryEffects(state),
  loadWith,
  invariants: poolViolations,
  waits: poolsWaiting,
  views: {
    instance: instanceView,
    matchPlayer,
    explain: explainInstance,
    costs: costsView,
    relayDoor,
    roomFor,
    fitOnEmpty,
    effectsOn: recoveryEffects,
  },
  seen: seenOfPools,
} satisfies Exported<PoolCommand, PoolEvent>;
