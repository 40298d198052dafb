/** Ports of one range. */
export const TEST_PORTS = 50;

/** Below those that the system gives to connections. */
const FIRST = 20_000;
const PER_WORKER = 60;

/**
 * First port of a range for the instances of one test file. Those that run side by side have ranges of their own by the
 * number of their worker, and those that one worker runs after each other by their process: instances of the file before
 * may still be letting go of theirs. By the process alone two files side by side had the same range now and then.
 */
export function testPorts(): number {
  const worker = Number(process.env["VITEST_POOL_ID"] ?? "1") - 1;
  return FIRST + ((worker % 4) * PER_WORKER + (process.pid % PER_WORKER)) * TEST_PORTS;
}
