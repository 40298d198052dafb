import { z } from "zod";
import { Config } from "./schema.ts";

/** JSON Schema (2020-12) of the configuration file, as people write it: what has a default may be left out. */
export function configJsonSchema(): object {
  return z.toJSONSchema(Config, { io: "input", target: "draft-2020-12" });
}
