import { z } from "zod";
import { Address, AtMs } from "./basics.ts";
import { ConfigName, InstanceId, PlayerId, RunId } from "./ids.ts";
import { Attributes } from "./settings.ts";
import { SpreadView } from "./spread.ts";

/** The three ways in which a room can be together in a level. */
export const DestinationKind = z.enum(["relayed", "player-hosted", "dedicated"]).meta({
  id: "DestinationKind",
  description:
    "relayed: members chat through the service; player-hosted: one of them runs the world; dedicated: an instance of a pool does.",
});
export type DestinationKind = z.infer<typeof DestinationKind>;

export const Stragglers = z.enum(["wait", "go-without", "drop"]).meta({
  id: "Stragglers",
  description:
    "Who has not arrived by the deadline: everybody is waited for, or the travel is given up; the others go and it follows late; or it is removed from the room.",
});
export type Stragglers = z.infer<typeof Stragglers>;

const where = {
  by: DestinationKind,
  instance: InstanceId.optional().meta({ description: "Of a dedicated destination." }),
  player: PlayerId.optional().meta({ description: "Of a player-hosted one: the member who runs the world." }),
  address: Address.optional().meta({ description: "Told only after a probe has reached it, where one can." }),
  addresses: z
    .array(Address)
    .optional()
    .meta({ description: "Of a player-hosted one: all of them, to be tried in order." }),
};

/** Where a room is. */
export const DestinationView = z
  .object({ ...where, spread: SpreadView.optional() })
  .meta({ id: "Destination", description: "Where the room plays." });
export type DestinationView = z.infer<typeof DestinationView>;

export const TravellerView = z
  .object({
    id: PlayerId,
    percent: z.int().min(0).max(100).meta({ description: "How far it has loaded, by its own word." }),
    arrived: z.boolean(),
    trouble: z.string().optional().meta({ description: "Why it cannot get there, by its own word." }),
  })
  .meta({ id: "Traveller", description: "A member on its way." });
export type TravellerView = z.infer<typeof TravellerView>;

export const TravelView = z
  .object({
    run: RunId,
    level: ConfigName,
    attributes: Attributes.optional().meta({ description: "The level's." }),
    step: z
      .enum(["preparing", "boarding"])
      .meta({ description: "preparing: there is no place to go to yet; boarding: go there now." }),
    calledAtMs: AtMs,
    deadlineMs: AtMs.meta({ description: "When the step ends, one way or the other." }),
    ...where,
    why: z.string().meta({ description: "Why it is this destination." }),
    tried: z
      .array(z.object({ by: DestinationKind, why: z.string() }))
      .meta({ description: "Destinations that came to nothing, and why." }),
    from: z
      .object({ instance: InstanceId, address: Address })
      .optional()
      .meta({ description: "Where the room comes from, while it is still there." }),
    stragglers: Stragglers,
    travellers: z.record(PlayerId, TravellerView),
    waitingFor: z.array(PlayerId).meta({ description: "Whom the barrier waits for." }),
    spread: SpreadView.optional(),
  })
  .meta({ id: "Travel", description: "The move of a room to a level." });
export type TravelView = z.infer<typeof TravelView>;
