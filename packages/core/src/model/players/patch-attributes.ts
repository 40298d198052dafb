import type { PlayerAttributes, SettingsPatch, SettingValue } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "../decision.ts";
import { settingFault } from "../setting-fault.ts";
import type { DeclaredAttributes } from "./attributes.ts";

/** What somebody says of itself after a merge patch over what it said before, or why not: only what is declared, and its own to say. */
export function patchAttributes(
  declared: DeclaredAttributes | null,
  before: PlayerAttributes,
  patch: SettingsPatch,
): { readonly attributes: PlayerAttributes } | Refusal {
  for (const [name, value] of Object.entries(patch)) {
    const against = whyNot(declared ?? {}, name, value);
    if (against) return against;
  }
  const kept = Object.entries({ ...before, ...patch }).filter(
    (entry): entry is [string, SettingValue] => entry[1] !== null,
  );
  return { attributes: Object.fromEntries(kept) };
}

function whyNot(declared: DeclaredAttributes, name: string, value: SettingValue | null): Refusal | undefined {
  const schema = Object.hasOwn(declared, name) ? declared[name] : undefined;
  const path = `args.attributes.${name}`;
  if (schema === undefined) {
    const accepted = Object.keys(declared);
    const there = accepted.length === 0 ? "the game declares none" : `there are ${accepted.join(", ")}`;
    const fields = [{ path, message: "expected an attribute that the game declares" }];
    return refuse("attribute-unknown", `Players have no attribute ${name}; ${there}.`, { accepted, fields });
  }
  if (schema.readOnly) {
    return refuse("attribute-not-yours", `Attribute ${name} is what the game's own back end vouches for in the token.`);
  }
  const fault = value === null ? undefined : settingFault(schema, value);
  if (fault === undefined) return undefined;
  return refuse("attribute-invalid", `Attribute ${name} cannot be ${JSON.stringify(value)}: ${fault}.`, {
    fields: [{ path, message: fault }],
    ...(schema.type === "string" && schema.enum && { accepted: [...schema.enum] }),
  });
}
