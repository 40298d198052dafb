import { Ms } from "@yellow-harbor/protocol";
import { z } from "zod";

const Share = (value: number, about: string) => z.number().min(0).max(1).default(value).meta({ description: about });

/** How a simulated machine behaves. All of it comes from the seed. */
export const Simulated = z.strictObject({
  seed: z
    .int()
    .min(0)
    .max(2 ** 31 - 1)
    .default(1)
    .meta({ description: "The same seed gives the same behaviour." }),
  bootMs: Ms(2_000, "Median time from the start of an instance until it announces itself.", { max: 600_000 }),
  bootSpread: z.number().min(0).max(2).default(0.3).meta({
    description: "Spread of boot times: the standard deviation of their logarithm.",
  }),
  lagMs: Ms(200, "From the announcement until the address answers.", { min: 0, max: 600_000 }),
  neverUp: Share(0, "Share of instances that never come up."),
  crashes: Share(0, "Share of instances that end by themselves in the middle of a match."),
  matchMs: Ms(5_000, "How long a match lasts once all have boarded.", { max: 86_400_000 }),
});
export type SimulatedConfig = z.output<typeof Simulated>;
