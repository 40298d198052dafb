import type { BuildCommand } from "../model/builds/commands.ts";
import type { BuildEvent } from "../model/builds/events.ts";
import { newBuildsState } from "../model/builds/state.ts";
import type { Exported } from "../model/capability.ts";
import { applyBuild } from "./apply.ts";
import { countEvent } from "./count.ts";
import { decideBuild } from "./decide.ts";
import { describeBuild } from "./describe.ts";
import { specOfToday } from "./former-specs.ts";
import { buildViews, nextVersion, rollingOut, specOf, takesNewRooms } from "./view.ts";

/** What instances run, by line and version, and how a new version takes over. */
export const builds = {
  names: ["build"],
  newState: () => ({ builds: newBuildsState() }),
  decide: decideBuild,
  apply: applyBuild,
  describe: (_state, event) => describeBuild(event),
  /** What changes with an event of another capability. */
  also: { count: countEvent },
  /** Brings a spec of the first form into today's. */
  upcast: specOfToday,
  views: { builds: buildViews, spec: specOf, nextVersion, rollingOut, takesNewRooms },
} satisfies Exported<BuildCommand, BuildEvent>;
