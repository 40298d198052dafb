import { ConfigName, DEVICE_ISSUER, SettingKey } from "@yellow-harbor/protocol";
import { isLoopback } from "@yellow-harbor/reach";
import { z } from "zod";

const SHARED = ["HS256", "HS384", "HS512"] as const;
const PUBLIC = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512", "EdDSA"] as const;

const claim = z.string().min(1).max(128);
const file = z.string().min(1).max(4_096);

const Claims = z
  .strictObject({
    account: claim.default("sub").meta({ description: "Claim with the account's id, a text or a whole number." }),
    name: claim.optional().meta({
      description:
        "Claim with the name to play under. The hello's name counts when it is left out, or the token has none.",
    }),
    roles: claim.optional().meta({ description: "Claim with the roles of the player, a list, such as moderator." }),
    friends: claim.optional().meta({
      description:
        "Claim with the accounts that the player knows, a list of ids of the same issuer. The player sees where they are, and may follow them.",
    }),
    blocked: claim.optional().meta({ description: "Claim with the accounts that the player has blocked, likewise." }),
    attributes: z
      .record(SettingKey, claim)
      .default({})
      .meta({ description: "Attributes that the game's back end vouches for, each with the claim it is in." }),
  })
  .prefault({});

const KEYS = ["secretFile", "publicKeyFile", "jwksFile", "jwksUrl"] as const;

/** Who issues account tokens, and what is checked of them. */
export const Issuer = z
  .strictObject({
    issuer: z.string().min(1).max(512).meta({ description: "The token's iss claim (RFC 7519, section 4.1.1)." }),
    audience: z.string().min(1).max(512).meta({ description: "What the token's aud claim must hold." }),
    algorithms: z
      .array(z.enum([...SHARED, ...PUBLIC]))
      .min(1)
      .meta({ description: "Algorithms that are accepted. What a token itself says is held against these." }),
    secretFile: file
      .optional()
      .meta({ description: "File with the shared secret, 32 bytes or more; for HS algorithms." }),
    publicKeyFile: file.optional().meta({ description: "File with a public key in PEM." }),
    jwksFile: file.optional().meta({ description: "File with a JSON Web Key Set (RFC 7517)." }),
    jwksUrl: z
      .url({ protocol: /^https?$/ })
      .refine((url) => url.startsWith("https:") || isLoopback(new URL(url).hostname), "expected https, but on loopback")
      .optional()
      .meta({
        description:
          "Address of a JSON Web Key Set. It is read when first needed, every ten minutes, and when a token names an unknown key.",
      }),
    clockSkewS: z.int().min(0).max(300).default(5).meta({
      description: "By how much the clocks of issuer and service may differ, in seconds.",
    }),
    maxAgeS: z.int().min(1).max(31_536_000).optional().meta({
      description:
        "Maximum age of a token by its iat claim, in seconds. A token without exp is refused when this is left out.",
    }),
    useOnce: z.boolean().default(false).meta({
      description:
        "Whether a token is good for one hello, by its jti claim. Coming back with a resume token needs none.",
    }),
    claims: Claims,
  })
  .superRefine((issuer, context) => {
    const given = KEYS.filter((key) => issuer[key] !== undefined);
    if (given.length !== 1) {
      context.addIssue({ code: "custom", path: [], message: `expected exactly one of ${KEYS.join(", ")}` });
    }
    const shared: readonly string[] = SHARED;
    const isShared = given[0] === "secretFile";
    // A public key must never be taken for a shared secret.
    const unfit = issuer.algorithms.findIndex((algorithm) => shared.includes(algorithm) !== isShared);
    if (given.length === 1 && unfit >= 0) {
      const expected = isShared ? SHARED : PUBLIC;
      const message = `${issuer.algorithms[unfit]} does not go with ${given[0]}; expected some of ${expected.join(", ")}`;
      context.addIssue({ code: "custom", path: ["algorithms", unfit], message });
    }
  });
export type IssuerConfig = z.output<typeof Issuer>;

export const Accounts = z
  .strictObject({
    sameAccount: z.enum(["take-over", "refuse"]).default("take-over").meta({
      description: "When an account that is here connects again: the new connection takes over, or is refused.",
    }),
    guestBans: z.enum(["network", "player"]).default("network").meta({
      description:
        "network: a guest who was banned from a room does not come in again from the same network, and neither do other guests from there. player: only the player itself is kept out, until it comes again as another.",
    }),
    issuers: z
      .record(ConfigName, Issuer)
      .default({})
      .refine(
        (issuers) => !(DEVICE_ISSUER in issuers),
        `${DEVICE_ISSUER} stands for guests' devices; take another name`,
      )
      .meta({ description: "Issuers of account tokens, by the name that their accounts begin with." }),
  })
  .prefault({})
  .meta({ description: "Players by account of the game instead of as guests." });
export type AccountsConfig = z.output<typeof Accounts>;
