import { settingFault } from "@yellow-harbor/core";
import type { Fault } from "./fault.ts";
import type { Config } from "./schema.ts";

type RoomKind = Config["roomKinds"][string];

/** Defaults and variants are held against their own schemas, and bounds against each other. */
export function settingFaults(kind: string, { settings, variants }: RoomKind): Fault[] {
  const declared = settings ?? {};
  const own = schemaFaults(["roomKinds", kind, "settings"], declared);
  const named = Object.entries(variants).flatMap(([variant, values]) =>
    Object.entries(values).flatMap(([key, value]): Fault[] => {
      const path = ["roomKinds", kind, "variants", variant, key];
      if (settings === null) return [];
      const schema = Object.hasOwn(declared, key) ? declared[key] : undefined;
      if (schema === undefined)
        return [{ path, message: `expected a setting of the kind: ${Object.keys(declared).join(", ")}` }];
      const fault = settingFault(schema, value);
      return fault === undefined ? [] : [{ path, message: fault }];
    }),
  );
  return [...own, ...named];
}

/** Defaults are held against their own schemas, and bounds against each other. */
export function schemaFaults(at: readonly string[], declared: NonNullable<RoomKind["settings"]>): Fault[] {
  return Object.entries(declared).flatMap(([key, schema]): Fault[] => {
    const path = [...at, key];
    if ("minimum" in schema && (schema.minimum ?? -Infinity) > (schema.maximum ?? Infinity))
      return [{ path: [...path, "minimum"], message: `expected no more than maximum, ${schema.maximum}` }];
    const fault = schema.default === undefined ? undefined : settingFault(schema, schema.default);
    return fault === undefined ? [] : [{ path: [...path, "default"], message: fault }];
  });
}
