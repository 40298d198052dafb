/**
 * A shorter list with which `fails` still holds: chunks are left out, half as large each time nothing more can go
 * (delta debugging: A. Zeller, R. Hildebrandt, IEEE TSE 28(2), 2002). Gives up after `maxTries` tries.
 */
export async function shorten<T>(
  list: readonly T[],
  fails: (shorter: readonly T[]) => Promise<boolean>,
  maxTries = 2_000,
): Promise<readonly T[]> {
  let kept = list;
  let tries = 0;
  for (let size = Math.ceil(kept.length / 2); size >= 1; size = size === 1 ? 0 : Math.ceil(size / 2)) {
    for (let from = kept.length - size; from > -size && tries < maxTries; from -= size) {
      const shorter = [...kept.slice(0, Math.max(0, from)), ...kept.slice(Math.max(0, from) + size)];
      tries += 1;
      if (await fails(shorter)) kept = shorter;
    }
  }
  return kept;
}
