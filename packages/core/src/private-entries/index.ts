import type { Exported } from "../model/capability.ts";
import type { PrivateEntryCommand } from "../model/private-entries/commands.ts";
import type { PrivateEntryEvent } from "../model/private-entries/events.ts";
import { newPrivateEntriesState } from "../model/private-entries/state.ts";
import { applyPrivateEntry, forgetRoom } from "./apply.ts";
import { decidePrivateEntry } from "./decide.ts";
import { describePrivateEntry } from "./describe.ts";
import { privateEntryViolations } from "./invariants.ts";
import { allIn, privatePushes, seenBy } from "./view.ts";

/** What only some members of a room see. It is no part of the room's view, so its revision says nothing of it to others. */
export const privateEntries = {
  names: ["private"],
  newState: () => ({ privateEntries: newPrivateEntriesState() }),
  decide: decidePrivateEntry,
  apply: applyPrivateEntry,
  deliveries: privatePushes,
  describe: describePrivateEntry,
  invariants: privateEntryViolations,
  /** What changes with an event of another capability. */
  also: { forgetRoom },
  views: { seenBy, allIn },
} satisfies Exported<PrivateEntryCommand, PrivateEntryEvent>;
