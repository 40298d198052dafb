import { describe, expect, it } from "vitest";
import { audit, Ledger } from "./ledger.ts";

describe("the ledger of a trial", () => {
  it("finds what was acknowledged and is not there, and what was shown and is not there", () => {
    const ledger = new Ledger();
    ledger.acknowledge("one", 4);
    ledger.show("one", 6);
    ledger.acknowledge("two", 2);
    const before = ledger.copy();
    ledger.acknowledge("two", 9);
    expect(audit(before, () => 6)).toEqual({ lost: 0, unannounced: 0 });
    expect(audit(before, () => 5)).toEqual({ lost: 0, unannounced: 1 });
    expect(audit(before, () => 0)).toEqual({ lost: 6, unannounced: 6 });
    expect(ledger.acknowledged).toBe(3);
  });
});
