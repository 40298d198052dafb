import { z } from "zod";
import { AtMs } from "./basics.ts";
import { BanId } from "./ids.ts";
import { Reason } from "./text.ts";

/** Longest that the own part of an account's id may be. */
export const ACCOUNT_MAX_CHARACTERS = 128;

/** Name of the issuer in the configuration, and what its tokens call the account. `device` stands for guests who keep a key. */
export const AccountId = z
  .string()
  .regex(
    /^[a-z0-9]([a-z0-9-]{0,30}[a-z0-9])?:[\x21-\x7e]{1,128}$/,
    "expected the issuer's name, a colon and the account, such as game:4711",
  )
  .meta({
    id: "AccountId",
    description: "Account of a player: the issuer's name, a colon, and its own id, such as game:4711.",
  });
export type AccountId = z.infer<typeof AccountId>;

/** Issuer that stands for devices of guests. */
export const DEVICE_ISSUER = "device";

/** Whether an account is that of a guest, who keeps a key and nothing else. */
export const isDevice = (account: AccountId): boolean => account.startsWith(`${DEVICE_ISSUER}:`);

/** An address, or a network. */
const Network = z.union([z.ipv4(), z.ipv6(), z.cidrv4(), z.cidrv6()], {
  error: "expected an address or a network, such as 192.0.2.7, 192.0.2.0/24 or 2001:db8::/64",
});

export const BanView = z
  .object({
    id: BanId,
    account: AccountId.optional(),
    network: z.string().optional().meta({ description: "Address or network, such as 192.0.2.0/24." }),
    everybody: z.boolean().optional().meta({
      description: "With a network: whether it concerns players with an account of the game too, not guests alone.",
    }),
    reason: z.string().optional().meta({ description: "Told to whom it concerns." }),
    by: z.string().meta({ description: "Who banned." }),
    atMs: AtMs,
    untilMs: AtMs.optional().meta({ description: "Absent when it has no end." }),
  })
  .meta({ id: "HarborBan", description: "A ban from the harbor, of an account, or of an address or network." });
export type BanView = z.infer<typeof BanView>;

export const BanList = z
  .object({
    bans: z.array(BanView),
    next: BanId.optional().meta({ description: "Give it as after for the next page." }),
  })
  .meta({ id: "BanList" });
export type BanList = z.infer<typeof BanList>;

/** Longest ban that has an end: ten years. */
const HOURS_MAX = 87_600;

const hours = z.number().positive().max(HOURS_MAX).optional().meta({
  description: "After so many hours it ends; never when left out.",
});

export const CreateBan = z
  .strictObject({
    account: AccountId.optional(),
    network: Network.optional(),
    everybody: z.boolean().default(false).meta({
      description: "With a network: ban players with an account of the game too, not guests alone.",
    }),
    reason: Reason.optional(),
    hours,
  })
  .refine(({ account, network }) => (account === undefined) !== (network === undefined), {
    message: "expected either an account, or a network",
    path: ["account"],
  })
  .meta({ id: "CreateBan" });

export const BanPlayer = z.strictObject({ reason: Reason.optional(), hours }).meta({
  id: "BanPlayer",
  description: "Bans the player's account. A guest without a device key is banned by the network it comes from.",
});
