/** Ports of one range. */
export const TEST_PORTS = 50;

/** Below those that the system gives to connections. */
const FIRST = 20_000;
const PER_WORKER = 60;

let calls = 0;

/**
 * First port of a range for the instances of one configuration. Workers that run side by side have ranges of their own, and
 * each has another every time: instances of the test before may still be letting go of theirs.
 */
export function testPorts(): number {
  const worker = Number(process.env["VITEST_POOL_ID"] ?? "1") - 1;
  calls += 1;
  return FIRST + ((worker % 4) * PER_WORKER + ((process.pid + calls) % PER_WORKER)) * TEST_PORTS;
}
