import type { BanCommand } from "../model/bans/commands.ts";
import type { BanEvent } from "../model/bans/events.ts";
import { newBansState } from "../model/bans/state.ts";
import type { Exported } from "../model/capability.ts";
import type { RoomsPart } from "../model/state.ts";
import { applyBan } from "./apply.ts";
import { banDetail, banRefusal, decideBan } from "./decide.ts";
import { describeBan } from "./describe.ts";
import { banViolations } from "./invariants.ts";
import { banPage, banView } from "./view.ts";

/** Who may not come in. */
export const bans = {
  names: ["ban"],
  newState: () => ({ bans: newBansState() }),
  decide: decideBan,
  apply: applyBan,
  describe: (_state, event) => describeBan(event),
  due: { "ban-end": (ban) => ({ do: "ban.end", ban }) },
  waits: ({ bans: { byId } }: RoomsPart) =>
    [...byId.values()].filter(({ untilMs }) => untilMs !== null).map(({ id }) => ["ban-end", id] as const),
  invariants: banViolations,
  /** What stands in somebody's way. */
  refusal: banRefusal,
  detail: banDetail,
  views: { page: banPage, ban: banView },
} satisfies Exported<BanCommand, BanEvent>;
