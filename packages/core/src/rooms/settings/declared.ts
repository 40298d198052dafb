import type { RoomKindRules, Settings, SettingsPatch, SettingValue } from "@yellow-harbor/protocol";
import { type Refusal, refuse } from "../../model/decision.ts";
import { settingFault } from "../../model/setting-fault.ts";

type Declared = NonNullable<RoomKindRules["settings"]>;

interface Asking {
  /** Room kind, for the words of a refusal. */
  readonly kind: string;
  /** Its rules; undefined when it is not configured any more: then anything may be set, as ever. */
  readonly rules: Pick<RoomKindRules, "settings" | "variants"> | undefined;
  readonly isOperator?: boolean;
}

interface Wanted {
  readonly settings?: SettingsPatch | undefined;
  readonly variant?: string | undefined;
}

type Found = { readonly settings: SettingsPatch } | Refusal;

/** What a new room has: the defaults of its kind, then those of a variant, then what was asked for. */
export function firstSettings(asking: Asking, wanted: Wanted): { readonly settings: Settings } | Refusal {
  const found = changedSettings(asking, wanted);
  if ("refused" in found) return found;
  const all = { ...defaultsOf(asking.rules?.settings ?? {}), ...found.settings };
  return { settings: Object.fromEntries(Object.entries(all).filter(([, value]) => value !== null)) as Settings };
}

/** What a change sets: a variant first, then what was asked for. null brings a declared one back to its default. */
export function changedSettings(
  { kind, rules, isOperator = false }: Asking,
  { settings = {}, variant }: Wanted,
): Found {
  const chosen = variant === undefined ? {} : own(rules?.variants ?? {}, variant);
  if (chosen === undefined) {
    const accepted = Object.keys(rules?.variants ?? {});
    const there = accepted.length === 0 ? "there are none" : `there are ${accepted.join(", ")}`;
    return refuse("variant-unknown", `Rooms of kind ${kind} have no variant ${variant}; ${there}.`, { accepted });
  }
  const declared = rules?.settings ?? null;
  if (declared === null) return { settings: { ...chosen, ...settings } };
  for (const [key, value] of Object.entries(settings)) {
    const against = whyNot(kind, declared, { key, value, isOperator });
    if (against) return against;
  }
  const patch = Object.entries(settings).map(([key, value]) => [key, value ?? own(declared, key)?.default ?? null]);
  return { settings: { ...chosen, ...Object.fromEntries(patch) } };
}

/** What a record has under a key that anybody may have chosen: never what all objects have. */
const own = <T>(record: Readonly<Record<string, T>>, key: string): T | undefined =>
  Object.hasOwn(record, key) ? record[key] : undefined;

const defaultsOf = (declared: Declared): Settings =>
  Object.fromEntries(
    Object.entries(declared).flatMap(([key, schema]) => (schema.default === undefined ? [] : [[key, schema.default]])),
  );

interface Asked {
  readonly key: string;
  readonly value: SettingValue | null;
  readonly isOperator: boolean;
}

function whyNot(kind: string, declared: Declared, { key, value, isOperator }: Asked): Refusal | undefined {
  const schema = own(declared, key);
  const path = `args.settings.${key}`;
  if (schema === undefined) {
    const accepted = Object.keys(declared);
    const detail = `Rooms of kind ${kind} have no setting ${key}; they have ${accepted.join(", ")}.`;
    return refuse("setting-unknown", detail, {
      accepted,
      fields: [{ path, message: "expected a setting of the kind" }],
    });
  }
  if (schema.readOnly && !isOperator) {
    return refuse("setting-not-yours", `Setting ${key} of rooms of kind ${kind} is for operators to set.`);
  }
  const fault = value === null ? undefined : settingFault(schema, value);
  if (fault === undefined) return undefined;
  const detail = `Setting ${key} of rooms of kind ${kind} cannot be ${JSON.stringify(value)}: ${fault}.`;
  return refuse("setting-invalid", detail, {
    fields: [{ path, message: fault }],
    ...(schema.type === "string" && schema.enum && { accepted: [...schema.enum] }),
  });
}
