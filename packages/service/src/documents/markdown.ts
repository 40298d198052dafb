import { problemCodes, problemTable } from "@yellow-harbor/protocol";
import { configJsonSchema } from "../config/json-schema.ts";

const GENERATED = "<!-- Made by `npm run docs` from the schemas. Change those, not this file. -->";

/** The table of problems. */
export function problemsPage(): string {
  const retry = { never: "no", later: "later", changed: "changed" };
  const rows = problemCodes.map((code) => {
    const { title, status, close, exit, retry: again } = problemTable[code];
    return `| \`${code}\` | ${title} | ${status} | ${close ?? "-"} | ${exit} | ${retry[again]} |`;
  });
  return [
    "# Problems",
    GENERATED,
    "",
    "Every refusal has a code. Over HTTP it comes as problem details (RFC 9457) with the status below; over a player's WebSocket as a",
    "`problem` in a reply, or in a `closing` frame before the socket is closed with the close code below; `yh` ends with the exit code below.",
    "A code that is no longer used is never given another meaning.",
    "",
    "*Again?* says whether trying again helps: `later` with the same request, `changed` after changing it, `no` not at all.",
    "",
    "| code | what it means | HTTP status | close code | exit code | again? |",
    "|---|---|---|---|---|---|",
    ...rows,
    "",
  ].join("\n");
}

interface SchemaNode {
  readonly type?: string;
  readonly description?: string;
  readonly default?: unknown;
  readonly enum?: readonly unknown[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly properties?: Readonly<Record<string, SchemaNode>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: SchemaNode | boolean;
  readonly items?: SchemaNode;
  readonly prefixItems?: readonly SchemaNode[];
  readonly anyOf?: readonly SchemaNode[];
  readonly oneOf?: readonly SchemaNode[];
  readonly $ref?: string;
  readonly $defs?: Readonly<Record<string, SchemaNode>>;
}

/** Every key of the configuration file. */
export function configurationReference(): string {
  const schema = configJsonSchema() as SchemaNode;
  const resolve = (node: SchemaNode): SchemaNode => {
    const name = node.$ref?.split("/").at(-1);
    return name === undefined ? node : { ...schema.$defs?.[name], ...node };
  };
  const rows: string[] = [];
  const walk = (node: SchemaNode, path: string) => {
    for (const [key, raw] of Object.entries(node.properties ?? {})) {
      const child = resolve(raw);
      const here = path === "" ? key : `${path}.${key}`;
      const inner = typeof child.additionalProperties === "object" ? resolve(child.additionalProperties) : undefined;
      const isGroup = child.properties !== undefined;
      if (!isGroup && inner?.properties === undefined)
        rows.push(row(here, child, node.required?.includes(key) ?? false, resolve));
      if (isGroup) walk(child, here);
      if (inner?.properties) walk(inner, `${here}.NAME`);
      // Each item of a list has keys of its own; where items are of several forms, those of all.
      const item = child.items && resolve(child.items);
      if (item) walk(formsOf(item, resolve), `${here}[]`);
      else if (child.anyOf || child.oneOf) walk(formsOf(child, resolve), here);
    }
  };
  walk(schema, "");
  return ["| key | takes | when left out | about |", "|---|---|---|---|", ...rows].join("\n");
}

/** What items of several forms may have, as one: only what all must have is required. */
function formsOf(item: SchemaNode, resolve: (node: SchemaNode) => SchemaNode): SchemaNode {
  const forms = (item.anyOf ?? item.oneOf)?.map(resolve);
  if (forms === undefined) return item;
  const properties = forms.reduce<Record<string, SchemaNode>>((all, form) => ({ ...form.properties, ...all }), {});
  const required = Object.keys(properties).filter((key) => forms.every((form) => form.required?.includes(key)));
  return { properties, required };
}

function row(path: string, node: SchemaNode, isRequired: boolean, resolve: (node: SchemaNode) => SchemaNode): string {
  const preset = node.default === undefined ? (isRequired ? "required" : "-") : `\`${JSON.stringify(node.default)}\``;
  return `| \`${path}\` | ${takes(node, resolve)} | ${preset} | ${(node.description ?? "").replaceAll("|", "\\|")} |`;
}

function takes(node: SchemaNode, resolve: (node: SchemaNode) => SchemaNode): string {
  if (node.enum) return node.enum.map((value) => `\`${value}\``).join(", ");
  if (node.prefixItems) return `[${node.prefixItems.map((one) => takes(resolve(one), resolve)).join(", ")}]`;
  if (node.type === "array") return `list of ${takes(resolve(node.items ?? {}), resolve)}`;
  const forms = node.anyOf ?? node.oneOf;
  if (forms) return [...new Set(forms.map((one) => takes(resolve(one), resolve)))].join(" or ");
  if (node.type === "boolean") return "`true`, `false`";
  if (node.type === "number") return node.maximum === undefined ? "a number" : `up to ${node.maximum}`;
  if (node.type === "integer") return `${node.minimum} to ${node.maximum}`;
  if (node.properties) return "maps with the keys below";
  if (typeof node.additionalProperties === "object")
    return `map of ${takes(resolve(node.additionalProperties), resolve)}`;
  if (node.type === "object") return "map of text";
  return "text";
}
