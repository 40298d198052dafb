/** Of what lies beyond what a room's players accept. */
export const OUT_OF_REACH = Number.POSITIVE_INFINITY;

/**
 * How near something is to a room's players: its place in the list of regions that they accept, the best first. What names
 * no region comes behind these, and anything will do where there is no list.
 */
export function rankOf({ region }: { readonly region: string | null }, regions: readonly string[] | undefined): number {
  if (regions === undefined) return 0;
  if (region === null) return regions.length;
  const at = regions.indexOf(region);
  return at < 0 ? OUT_OF_REACH : at;
}

/** Where something is, for the players of a room. */
export function whereText(region: string | null, regions: readonly string[]): string {
  if (region === null) return "on a machine that names no region";
  const [best = ""] = regions;
  if (region === best) return `in ${region}, where its players have the lowest latency`;
  return `in ${region}, within what its players accept, since ${best} had no place`;
}
