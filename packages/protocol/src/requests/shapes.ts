import { z } from "zod";

export const Nothing = z.strictObject({});

/** A reply that says nothing but that it is done. Not strict: the service may add to it. */
export const NothingMore = z.object({});

export const Done = z.object({ revision: z.int().meta({ description: "Revision of the room after the change." }) });
