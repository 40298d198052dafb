import { z } from "zod";

export const Nothing = z.strictObject({});

export const Done = z.object({ revision: z.int().meta({ description: "Revision of the room after the change." }) });
