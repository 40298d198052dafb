import { SNAPSHOT_VERSION } from "@yellow-harbor/core";
import { WIRE_SUBPROTOCOL, WIRE_VERSION } from "@yellow-harbor/protocol";
import { knownSchema } from "./journal/schema-version.ts";
import { SERVICE_VERSION } from "./version.ts";

/** Versions of all that others rely on: the product, what players speak, and the files in the data folder. */
export const versions = () => ({
  product: SERVICE_VERSION,
  wire: { version: WIRE_VERSION, subprotocol: WIRE_SUBPROTOCOL },
  files: { schema: knownSchema(), snapshot: SNAPSHOT_VERSION },
});
