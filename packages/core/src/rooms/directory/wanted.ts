import type { SettingValue, WantedSetting } from "@yellow-harbor/protocol";

/** Whether a setting is what somebody looks for. */
export function isWanted(value: SettingValue | undefined, wanted: WantedSetting): boolean {
  if (value === undefined) return false;
  if (typeof wanted !== "object") return value === wanted;
  if ("anyOf" in wanted) return wanted.anyOf.includes(value);
  const { min = Number.NEGATIVE_INFINITY, max = Number.POSITIVE_INFINITY } = wanted;
  return typeof value === "number" && min <= value && value <= max;
}
