import { describe, expect, it } from "vitest";
import { UpdateLog } from "./update-log.ts";

const frame = (n: number, length = 8) => String(n).padEnd(length, "x");

describe("the log of update", () => {
  it("has what came after a revision, in order, for one state", () => {
    const log = new UpdateLog();
    for (let n = 1; n <= 4; n++) {
      log.add("room", "r_one", n, frame(n), n);
      log.add("room", "r_two", n, frame(n + 100), n);
    }
    expect(log.between("room", "r_one", 2, 4)).toEqual([frame(3), frame(4)]);
    expect(log.between("room", "r_one", 4, 4)).toEqual([]);
    expect(log.between("lobby", "r_one", 2, 4)).toBeUndefined();
    expect(log.between("room", "r_one", 5, 4)).toBeUndefined();
  });

  it("says when something is missing instead of leaving a gap", () => {
    const log = new UpdateLog();
    log.add("room", "r_one", 1, frame(1), 0);
    log.add("room", "r_one", 2, frame(2), 40_000);
    log.add("room", "r_one", 3, frame(3), 60_000);
    expect(log.between("room", "r_one", 0, 3)).toBeUndefined();
    expect(log.between("room", "r_one", 1, 3)).toEqual([frame(2), frame(3)]);
  });

  it("keeps a bounded amount, however much there is", () => {
    const log = new UpdateLog();
    for (let n = 1; n <= 80; n++) log.add("room", "r_one", n, frame(n, 1_048_576), 0);
    expect(log.between("room", "r_one", 79, 80)).toHaveLength(1);
    expect(log.between("room", "r_one", 70, 80)).toBeUndefined();
  });
});
