type Json = Record<string, unknown>;

/** Applies a merge patch (RFC 7396, section 2) and returns the result; neither argument is changed. */
export function mergePatch<T>(target: T, patch: unknown): T {
  if (!isObject(patch)) return patch as T;
  const result: Json = isObject(target) ? { ...target } : {};
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete result[key];
    else result[key] = isObject(value) ? mergePatch(result[key], value) : value;
  }
  return result as T;
}

const isObject = (value: unknown): value is Json =>
  typeof value === "object" && value !== null && !Array.isArray(value);
