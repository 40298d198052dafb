import { z } from "zod";
import { CAPACITY_MAX } from "./limits.ts";

/** How places to appear lie: on a circle, or in rows. */
export const SpreadShape = z.enum(["ring", "grid"]).meta({ id: "SpreadShape" });
export type SpreadShape = z.infer<typeof SpreadShape>;

/** Where one appears, around the middle of the level. */
export const Spot = z
  .object({
    place: z.int().nonnegative(),
    x: z.number(),
    y: z.number(),
    facingDegrees: z.number().meta({ description: "Counter-clockwise from the x axis; towards the middle." }),
  })
  .meta({ id: "Spot", description: "Where the member at a place appears." });
export type Spot = z.infer<typeof Spot>;

/** All that the spots follow from. */
export const SpreadPlan = z.object({
  shape: SpreadShape,
  places: z.int().min(1).max(CAPACITY_MAX).meta({ description: "How many spots: one for each place of the room." }),
  gap: z.number().positive().meta({ description: "Distance between neighbours, in the game's own unit of length." }),
  startDegrees: z.number().min(0).lt(360).meta({
    description: "Drawn anew for each travel: where place 0 of a ring lies, by which a grid is turned.",
  }),
});
export type SpreadPlan = z.infer<typeof SpreadPlan>;

export const SpreadView = SpreadPlan.extend({ spots: z.array(Spot).meta({ description: "By place." }) }).meta({
  id: "Spread",
  description: "Where to appear, so that nobody lands on another.",
});
export type SpreadView = z.infer<typeof SpreadView>;

const THOUSANDTHS = 1_000;
const rounded = (value: number) => Math.round(value * THOUSANDTHS) / THOUSANDTHS || 0;
const radians = (degrees: number) => (degrees * Math.PI) / 180;
const facing = (x: number, y: number, otherwise: number) =>
  rounded(x === 0 && y === 0 ? otherwise : ((Math.atan2(-y, -x) * 180) / Math.PI + 360) % 360);

/**
 * One spot for each place, in the plan's unit of length, to a thousandth. On a ring neighbours are `gap` apart in a
 * straight line, whatever their number; on a grid along its rows and columns. Both lie around 0, 0.
 */
export function spotsOf(plan: SpreadPlan): Spot[] {
  return plan.shape === "ring" ? ring(plan) : grid(plan);
}

/** The spot of one place. Places beyond the plan have none. */
export const spotOf = (plan: SpreadPlan, place: number): Spot | undefined => spotsOf(plan)[place];

function ring({ places, gap, startDegrees }: SpreadPlan): Spot[] {
  // A chord of length c over an angle a belongs to the radius c / (2 sin(a/2)).
  const radius = places === 1 ? 0 : gap / (2 * Math.sin(Math.PI / places));
  return Array.from({ length: places }, (_, place) => {
    const angle = radians(startDegrees + (360 * place) / places);
    const [x, y] = [radius * Math.cos(angle), radius * Math.sin(angle)];
    return { place, x: rounded(x), y: rounded(y), facingDegrees: facing(x, y, startDegrees) };
  });
}

function grid({ places, gap, startDegrees }: SpreadPlan): Spot[] {
  const columns = Math.ceil(Math.sqrt(places));
  const rows = Math.ceil(places / columns);
  const [cos, sin] = [Math.cos(radians(startDegrees)), Math.sin(radians(startDegrees))];
  return Array.from({ length: places }, (_, place) => {
    const across = ((place % columns) - (columns - 1) / 2) * gap;
    const down = (Math.floor(place / columns) - (rows - 1) / 2) * gap;
    const [x, y] = [across * cos - down * sin, across * sin + down * cos];
    return { place, x: rounded(x), y: rounded(y), facingDegrees: facing(x, y, startDegrees) };
  });
}
