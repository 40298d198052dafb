import type { Curve } from "./rules.ts";

/** Value of a curve after so many seconds. */
export function valueAt(curve: Curve, seconds: number): number {
  let before = curve[0];
  if (before === undefined) return 0;
  for (const point of curve) {
    if (seconds < point[0]) {
      const [fromS, from] = before;
      return from + ((point[1] - from) * (seconds - fromS)) / (point[0] - fromS);
    }
    before = point;
  }
  return before[1];
}

/** A curve as seconds and values in turn, for {@link flatValueAt}. */
export const flatCurve = (curve: Curve): Float64Array => Float64Array.from(curve.flat());

/** What {@link valueAt} gives, to the last bit, of a curve in a flat array. */
export function flatValueAt(curve: Float64Array, seconds: number): number {
  const last = curve.length - 2;
  for (let n = 2; n <= last; n += 2) {
    const toS = curve[n] as number;
    if (seconds >= toS) continue;
    const fromS = curve[n - 2] as number;
    const from = curve[n - 1] as number;
    return from + (((curve[n + 1] as number) - from) * (seconds - fromS)) / (toS - fromS);
  }
  return last < 0 ? 0 : (curve[last + 1] as number);
}

/** The value that a curve ends with: the most it ever allows. */
export const endOf = (curve: Curve): number => curve.at(-1)?.[1] ?? 0;

/** After how many seconds a curve reaches a value, or undefined when it never does. */
export function reachedAfter(curve: Curve, value: number): number | undefined {
  let before = curve[0];
  if (before === undefined) return undefined;
  if (value <= before[1]) return 0;
  for (const point of curve) {
    if (value <= point[1]) {
      const [fromS, from] = before;
      return point[1] === from ? point[0] : fromS + ((point[0] - fromS) * (value - from)) / (point[1] - from);
    }
    before = point;
  }
  return undefined;
}

/** What is wrong with a curve, in words, or undefined. */
export function faultOfCurve(curve: Curve): string | undefined {
  if (curve[0] === undefined) return "expected at least one point, such as [0, 50]";
  if (curve[0][0] !== 0) return `starts at ${curve[0][0]} s; expected the first point at 0 s`;
  for (const [n, [seconds, value]] of curve.entries()) {
    const before = curve[n - 1];
    if (!before) continue;
    if (seconds <= before[0]) return `goes from ${before[0]} s to ${seconds} s; expected seconds that rise`;
    if (value < before[1]) {
      return `falls from ${before[1]} to ${value} at ${seconds} s; what waiting allows never shrinks`;
    }
  }
  return undefined;
}
