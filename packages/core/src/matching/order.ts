/** From so many on, sorting by digits is faster than by comparing. */
const RADIX_FROM = 1_024;

/** 11 bits at a time, the lowest first: three rounds for 32 bits. */
const DIGIT_BITS = 11;
const DIGITS = 1 << DIGIT_BITS;

/** The order that sorts numbers, equal ones as they come: by the digits of the nearest single floats, then put right. */
export function orderOf(numbers: Float64Array): Uint32Array {
  if (numbers.length < RADIX_FROM) {
    return Uint32Array.from(numbers.keys()).sort((a, b) => (numbers[a] as number) - (numbers[b] as number) || a - b);
  }
  const keys = new Uint32Array(Float32Array.from(numbers).buffer);
  // Floats sort like whole numbers once negative ones are turned over (IEEE 754, its order of bits).
  for (let n = 0; n < keys.length; n++) {
    const bits = keys[n] as number;
    keys[n] = bits >>> 31 === 1 ? ~bits : bits | 0x80000000;
  }
  let order = Uint32Array.from(keys.keys());
  let next = new Uint32Array(keys.length);
  for (let shift = 0; shift < 32; shift += DIGIT_BITS) {
    const starts = new Uint32Array(DIGITS + 1);
    for (const key of keys)
      starts[((key >>> shift) & (DIGITS - 1)) + 1] = (starts[((key >>> shift) & (DIGITS - 1)) + 1] as number) + 1;
    for (let digit = 0; digit < DIGITS; digit++)
      starts[digit + 1] = (starts[digit + 1] as number) + (starts[digit] as number);
    for (const at of order) {
      const digit = ((keys[at] as number) >>> shift) & (DIGITS - 1);
      const to = starts[digit] as number;
      starts[digit] = to + 1;
      next[to] = at;
    }
    [order, next] = [next, order];
  }
  // Numbers that differ by less than a single float can tell are neighbours by now.
  for (let n = 1; n < order.length; n++) {
    const at = order[n] as number;
    let to = n;
    while (to > 0 && (numbers[order[to - 1] as number] as number) > (numbers[at] as number)) {
      order[to] = order[to - 1] as number;
      to -= 1;
    }
    order[to] = at;
  }
  return order;
}

/** Of tickets in the order of their first number, the first position where that is not below. */
export function firstFrom(
  number: number,
  { numbers, stride, length }: { readonly numbers: Float64Array; readonly stride: number; readonly length: number },
): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((numbers[middle * stride] as number) < number) low = middle + 1;
    else high = middle;
  }
  return low;
}
