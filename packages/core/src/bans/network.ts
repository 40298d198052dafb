/** Bits of an address: 32 for IPv4, 128 for IPv6 (RFC 4291, section 2.2), or undefined when it is none. */
function bitsOf(address: string): { readonly value: bigint; readonly width: 32 | 128 } | undefined {
  const [bare = ""] = address.split("%");
  if (!bare.includes(":")) {
    const value = ipv4(bare);
    return value === undefined ? undefined : { value, width: 32 };
  }
  const last = bare.slice(bare.lastIndexOf(":") + 1);
  const tail = last.includes(".") ? ipv4(last) : undefined;
  if (last.includes(".") && tail === undefined) return undefined;
  const groups =
    tail === undefined
      ? bare
      : `${bare.slice(0, bare.lastIndexOf(":") + 1)}${(tail >> 16n).toString(16)}:${(tail & 0xffffn).toString(16)}`;
  const [head = "", rest, more] = groups.split("::");
  if (more !== undefined) return undefined;
  const before = head === "" ? [] : head.split(":");
  const after = rest === undefined || rest === "" ? [] : rest.split(":");
  const absent = 8 - before.length - after.length;
  if (rest === undefined ? absent !== 0 : absent < 0) return undefined;
  const all = [...before, ...Array<string>(absent).fill("0"), ...after];
  if (!all.every((group) => /^[0-9a-f]{1,4}$/i.test(group))) return undefined;
  return { value: all.reduce((sum, group) => (sum << 16n) | BigInt(`0x${group}`), 0n), width: 128 };
}

function ipv4(text: string): bigint | undefined {
  const parts = text.split(".");
  if (parts.length !== 4 || !parts.every((part) => /^\d{1,3}$/.test(part) && Number(part) < 256)) return undefined;
  return parts.reduce((sum, part) => (sum << 8n) | BigInt(part), 0n);
}

/** The one form of a network in which two of them can be compared: `4:c0000200/24` for 192.0.2.0/24. */
function keyOf({ value, width }: { readonly value: bigint; readonly width: number }, prefix: number): string {
  const kept = (value >> BigInt(width - prefix)) << BigInt(width - prefix);
  return `${width === 32 ? 4 : 6}:${kept.toString(16)}/${prefix}`;
}

/** An address or a network such as 192.0.2.0/24 in its canonical form, or undefined when it is neither. */
export function networkKey(text: string): string | undefined {
  const [address = "", prefix, more] = text.split("/");
  const bits = bitsOf(address);
  if (bits === undefined || more !== undefined || (prefix !== undefined && !/^\d{1,3}$/.test(prefix))) return undefined;
  const length = prefix === undefined ? bits.width : Number(prefix);
  if (!Number.isInteger(length) || length < 0 || length > bits.width) return undefined;
  return keyOf(bits, length);
}

/** The canonical forms of all networks that an address is in, the narrowest first. */
export function networksAround(address: string): readonly string[] {
  const bits = bitsOf(address);
  if (bits === undefined) return [];
  return Array.from({ length: bits.width + 1 }, (_, n) => keyOf(bits, bits.width - n));
}

/** A canonical form as people write it. */
export function networkText(key: string): string {
  const [family = "", rest = ""] = key.split(":");
  const [hex = "0", prefix = ""] = rest.split("/");
  const value = BigInt(`0x${hex}`);
  if (family === "4") {
    const parts = [24n, 16n, 8n, 0n].map((shift) => String((value >> shift) & 0xffn));
    return `${parts.join(".")}${prefix === "32" ? "" : `/${prefix}`}`;
  }
  const groups = Array.from({ length: 8 }, (_, n) => ((value >> BigInt(16 * (7 - n))) & 0xffffn).toString(16));
  return `${shortened(groups)}${prefix === "128" ? "" : `/${prefix}`}`;
}

/** The longest run of zeros is written as two colons (RFC 5952, section 4.2). */
function shortened(groups: readonly string[]): string {
  let [from, length] = [0, 0];
  for (let start = 0; start < groups.length; start++) {
    let end = start;
    while (groups[end] === "0") end++;
    if (end - start > length && end - start > 1) [from, length] = [start, end - start];
  }
  if (length === 0) return groups.join(":");
  return `${groups.slice(0, from).join(":")}::${groups.slice(from + length).join(":")}`;
}
