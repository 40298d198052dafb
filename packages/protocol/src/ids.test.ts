import { expect, it } from "vitest";
import { HARBORS_MAX, harborOfId, PlayerId } from "./ids.ts";

it("an id says which harbor it belongs to; one without a number is of the first", () => {
  expect(harborOfId("p_4kq2m7c9x0ab")).toBe(0);
  expect(harborOfId("r_0a4kq2m7c9x0ab")).toBe(10);
  expect(harborOfId("t_zz4kq2m7c9x0ab")).toBe(HARBORS_MAX - 1);
  for (const id of ["p_4kq2m7c9x0ab", "p_0a4kq2m7c9x0ab"]) expect(PlayerId.safeParse(id).success).toBe(true);
  for (const id of ["p_4kq2m7c9x0a", "p_a4kq2m7c9x0ab", "p_00a4kq2m7c9x0ab", "r_4kq2m7c9x0ab"])
    expect(PlayerId.safeParse(id).success, id).toBe(false);
});
